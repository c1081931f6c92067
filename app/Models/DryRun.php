<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * What loading would do, tried without writing.
 *
 * @property int $id
 * @property int $migration_id
 * @property ?int $round_id null before there is a round
 * @property int $target_id
 * @property ?int $user_id
 * @property DryRunKind $kind
 * @property string $title
 * @property array<string, mixed> $given  parameters of a round that is not begun, and what is supposed to be repaired
 * @property ?string $plan SHA-256 of the definition it went by
 * @property int $decision number of the last decision about rows it saw
 * @property WorkState $state
 * @property int $total rows, as far as they are known
 * @property int $done
 * @property int $attempts
 * @property ?array<string, mixed> $found
 * @property ?string $error
 * @property ?\Illuminate\Support\Carbon $began_at
 * @property ?\Illuminate\Support\Carbon $ended_at
 * @property \Illuminate\Support\Carbon $created_at
 */
final class DryRun extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'kind' => DryRunKind::class, 'state' => WorkState::class, 'given' => 'array', 'found' => 'array', 'began_at' => 'datetime',
            'ended_at' => 'datetime',
        ];
    }

    /** @return BelongsTo<Migration, $this> */
    public function migration(): BelongsTo
    {
        return $this->belongsTo(Migration::class);
    }

    /** @return BelongsTo<Round, $this> */
    public function round(): BelongsTo
    {
        return $this->belongsTo(Round::class);
    }

    /** @return BelongsTo<Target, $this> */
    public function target(): BelongsTo
    {
        return $this->belongsTo(Target::class);
    }

    public function isGoing(): bool
    {
        return $this->state->isGoing();
    }

    /** Says how far it is; false when somebody asked it to stop. */
    public function reached(int $rows): bool
    {
        $running = self::query()->whereKey($this->id)->where('state', WorkState::Running);

        // The server counts lines it changed: saying the same twice within a second is none.
        return (clone $running)->update(['done' => $rows, 'updated_at' => now()]) > 0 || $running->exists();
    }
}
