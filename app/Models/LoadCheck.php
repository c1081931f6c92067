<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * What a load would do to all its rows, tried without a target.
 *
 * @property int $id
 * @property int $load_id
 * @property string $hash
 * @property CheckState $state
 * @property int $rows_total
 * @property int $rows_done
 * @property ?array<string, mixed> $result
 * @property ?string $error
 * @property int $attempts
 * @property ?\Illuminate\Support\Carbon $finished_at
 */
final class LoadCheck extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return ['state' => CheckState::class, 'result' => 'array', 'finished_at' => 'datetime'];
    }

    /** Says how far it is; false when somebody asked to stop. */
    public function goOn(int $rows): bool
    {
        return self::query()->whereKey($this->id)->where('state', CheckState::Running)
            ->update(['rows_done' => $rows, 'updated_at' => now()]) > 0;
    }

    public function isGoing(): bool
    {
        return in_array($this->state, [CheckState::Queued, CheckState::Running, CheckState::Stopping], true);
    }
}
