<?php

namespace App\View;

use App\Models\LoadState;
use App\Models\Pass;

/** Figures of a pass for the run strip. */
final class PassProgress
{
    public readonly int $total;

    public readonly int $done;

    public readonly int $rate;

    public readonly string $left;

    public readonly string $elapsed;

    public readonly ?string $current;

    public function __construct(Pass $pass)
    {
        $loads = $pass->passLoads()->with('ofLoad')->orderBy('wave')->orderBy('id')->get();
        // A retry also takes up rows that were held by those it repairs, which nobody could count beforehand.
        $this->total = (int) $loads->sum(fn ($l) => max((int) $l->rows_total, (int) $l->rows_done));
        $this->done = (int) $loads->sum('rows_done');
        $busy = (float) $loads->sum(fn ($l) => (float) $l->seconds);
        $this->rate = $busy > 0.05 ? (int) round($this->done / $busy) : 0;
        $this->current = $loads->firstWhere('state', LoadState::Running)?->ofLoad->name;
        $open = max(0, $this->total - $this->done);
        $this->left = $this->rate > 0 ? self::time((int) ceil($open / $this->rate)) : 'unknown time';
        $this->elapsed = $pass->started_at === null
            ? '0:00'
            : self::time((int) $pass->started_at->diffInSeconds($pass->finished_at ?? now()));
    }

    public static function time(int $seconds): string
    {
        return $seconds >= 3600
            ? sprintf('%d:%02d:%02d', intdiv($seconds, 3600), intdiv($seconds, 60) % 60, $seconds % 60)
            : sprintf('%d:%02d', intdiv($seconds, 60), $seconds % 60);
    }
}
