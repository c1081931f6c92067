<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Mapping\Mapper;

/** Works on one load in one pass, stretch after stretch, from wherever the ledger stands. */
final class LoadWork
{
    private const KEYS_AT_ONCE = 10_000;

    /** Whether the target may hold the next stretch already: a worker died, or its answer was lost. */
    private bool $unsure = true;

    /**
     * @param  bool  $retry  whether only rows that wait are taken
     * @param  int  $size  rows of a stretch
     */
    public function __construct(
        private readonly FeedRows $rows,
        private readonly LoadLedger $ledger,
        private readonly BatchProcessor $processor,
        private readonly Target $target,
        private readonly Mapper $mapper,
        private readonly string $installation,
        private readonly int $pass,
        private readonly int $load,
        private readonly bool $retry,
        private readonly int $size,
    ) {
    }

    /**
     * @return bool false when nothing is left
     *
     * @throws TargetUnavailable the same step may be tried again
     */
    public function step(): bool
    {
        $after = $this->ledger->position();
        $unsure = $this->unsure;
        $this->unsure = true;
        $receipt = $unsure ? $this->target->recall($this->stretch($after, $after)) : null;
        $rows = $this->next($after, $receipt?->to);
        if ($rows === []) {
            $this->unsure = $unsure;

            return false;
        }
        $stretch = $this->stretch($after, (int) array_key_last($rows));
        $this->ledger->record($stretch, $this->processor->process($rows, $stretch, $receipt));
        $this->unsure = false;

        return true;
    }

    /** Announces the legacy keys of the whole feed, for loads whose records are referred to before they are loaded. */
    public function announce(): void
    {
        while (($from = $this->ledger->announced()) !== null) {
            $rows = $this->rows->after($from, self::KEYS_AT_ONCE);
            if ($rows === []) {
                return;
            }
            $this->ledger->announce(array_map($this->mapper->legacyKey(...), $rows));
        }
    }

    /**
     * @param  int|null  $to  the last row of the stretch, where the target has it already
     * @return array<int, list<string|null>>
     */
    private function next(int $after, ?int $to): array
    {
        if ($to === null) {
            return $this->retry
                ? $this->rows->numbered($this->ledger->due($after, $this->size))
                : $this->rows->after($after, $this->size);
        }
        $most = $to - $after;
        $rows = $this->retry
            ? $this->rows->numbered($this->ledger->due($after, $most))
            : $this->rows->after($after, $most);

        return array_filter($rows, fn (int $row) => $row <= $to, ARRAY_FILTER_USE_KEY);
    }

    private function stretch(int $after, int $to): Stretch
    {
        return new Stretch($this->installation, $this->pass, $this->load, $after, $to);
    }
}
