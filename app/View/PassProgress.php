<?php

namespace App\View;

use App\Models\LoadState;
use App\Models\Pass;

/** Figures of a pass for the run strip. */
final readonly class PassProgress
{
    /**
     * @param  int  $rate  rows a second, 0 while it cannot be said
     * @param  string  $left  time, as time() writes it
     * @param  string  $elapsed  the same
     * @param  string|null  $current  the load that runs
     */
    private function __construct(
        public int $total,
        public int $done,
        public int $rate,
        public string $left,
        public string $elapsed,
        public ?string $current,
    ) {
    }

    public static function of(Page $page, Pass $pass): self
    {
        $loads = $pass->passLoads;
        // A retry also takes up rows that were held by those it repairs, which nobody could count beforehand.
        $total = (int) $loads->sum(fn ($l) => max((int) $l->rows_total, (int) $l->rows_done));
        $done = (int) $loads->sum('rows_done');
        $busy = (float) $loads->sum(fn ($l) => (float) $l->seconds);
        // Several workers are busy longer than the clock says; one that was paused less.
        $clock = (float) $pass->started_at?->diffInSeconds($pass->finished_at ?? now());
        $busy = $clock > 1 ? min($busy, $clock) : $busy;
        $rate = $busy > 0.05 ? (int) round($done / $busy) : 0;

        return new self(
            $total,
            $done,
            $rate,
            $rate > 0 ? self::time((int) ceil(max(0, $total - $done) / $rate)) : 'unknown time',
            $pass->started_at === null
                ? '0:00'
                : self::time((int) $pass->started_at->diffInSeconds($pass->finished_at ?? now())),
            $page->all()->get($loads->firstWhere('state', LoadState::Running)?->load_id)?->name,
        );
    }

    public static function time(int $seconds): string
    {
        return $seconds >= 3600
            ? sprintf('%d:%02d:%02d', intdiv($seconds, 3600), intdiv($seconds, 60) % 60, $seconds % 60)
            : sprintf('%d:%02d', intdiv($seconds, 60), $seconds % 60);
    }
}
