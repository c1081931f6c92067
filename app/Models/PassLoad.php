<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $pass_id
 * @property int $load_id
 * @property int $take_id
 * @property int $wave
 * @property LoadState $state
 * @property int $cursor_row
 * @property ?int $key_cursor
 * @property int $rows_total
 * @property int $rows_done
 * @property string $seconds
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
            'counts' => 'array',
        ];
    }

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
