<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * What a load would do to all its rows, tried without a target.
 *
 * @property int $id
 * @property int $load_id
 * @property string $fingerprint
 * @property string $state
 * @property int $rows_total
 * @property int $rows_done
 * @property ?array<string, mixed> $result
 * @property ?string $error
 * @property ?\Illuminate\Support\Carbon $finished_at
 */
final class LoadCheck extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return ['result' => 'array', 'finished_at' => 'datetime'];
    }

    /**
     * What it says of single fields.
     *
     * @return array{reached: int, failures: array<string, int>, causes: array<string, int>}|null rows whose rules were tried; field → rows that fail; field → number of its first cause; null before it is done
     */
    public function ofFields(): ?array
    {
        if ($this->state !== 'done' || $this->result === null) {
            return null;
        }
        $reached = $this->result['rows'] - $this->result['excluded'];
        $causes = [];
        foreach ($this->result['causes'] as $cause) {
            if ($cause['field'] === null) {
                $reached -= $cause['n'];
            }
        }
        foreach ([...$this->result['causes'], ...$this->result['others']] as $cause) {
            foreach ($cause['fields'] ?? array_filter([$cause['field']]) as $field) {
                $causes[$field] ??= $cause['number'];
            }
        }

        return ['reached' => $reached, 'failures' => $this->result['failures'], 'causes' => $causes];
    }

    public function isGoing(): bool
    {
        return in_array($this->state, ['queued', 'running', 'stopping'], true);
    }
}
