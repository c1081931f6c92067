<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $pass_id
 * @property int $load_id
 * @property int $take_id
 * @property ?int $from_take_id of a delta: the take the round worked on before
 * @property ?int $compared_row how far it was compared with that
 * @property ?array{added: int, changed: int, gone: int, back: int, to_do: int, rows: int} $compared what was found
 * @property int $wave
 * @property LoadState $state
 * @property LoadWay $way
 * @property int $cursor_row how far free rows were taken
 * @property int $told_row up to which row it is known what rows claim
 * @property int $turn_row how far rows that go in turn were taken
 * @property int $last_row
 * @property bool $is_turn_over
 * @property ?int $key_cursor how far keys have a line of their own in the ledger, before their rows are worked on
 * @property ?int $late_row how far keys are announced
 * @property int $rows_total
 * @property int $rows_done
 * @property string $seconds
 * @property ?\Illuminate\Support\Carbon $began_at when its first stretch began
 * @property ?\Illuminate\Support\Carbon $ended_at when its last one was written down
 * @property ?array<string, int> $counts
 * @property ?string $error
 */
final class PassLoad extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'state' => LoadState::class,
            'way' => LoadWay::class,
            'is_turn_over' => 'boolean',
            'counts' => 'array',
            'compared' => 'array',
            'began_at' => 'datetime',
            'ended_at' => 'datetime',
        ];
    }

    protected $dateFormat = 'Y-m-d H:i:s.v';

    /** @return BelongsTo<Pass, $this> */
    public function pass(): BelongsTo
    {
        return $this->belongsTo(Pass::class);
    }

    /** @return BelongsTo<Load, $this> */
    public function ofLoad(): BelongsTo
    {
        return $this->belongsTo(Load::class, 'load_id');
    }

    /** @return BelongsTo<Take, $this> */
    public function take(): BelongsTo
    {
        return $this->belongsTo(Take::class);
    }
}
