<?php

namespace Baggage\Core\Loading;

/** One worker's part in one load of a pass, stretch after stretch, from wherever the ledger stands. */
final class LoadWork
{
    /** What is claimed and not recorded yet. */
    private ?Portion $portion = null;

    private bool $inTurn = false;

    /** Whether the target may hold it already: its answer was lost. */
    private bool $isUnsure = false;

    /** @param  int  $size  rows of a stretch */
    public function __construct(
        private readonly FeedRows $rows,
        private readonly LoadLedger $ledger,
        private readonly BatchProcessor $processor,
        private readonly Target $target,
        private readonly string $installation,
        private readonly int $pass,
        private readonly int $load,
        private readonly int $size,
    ) {
    }

    /**
     * @param  bool  $inTurn  whether the rows that go one after another are meant, or those that are in nobody's way
     * @return bool false when there is nothing to be had
     *
     * @throws TargetUnavailable the same step may be tried again
     */
    public function step(bool $inTurn): bool
    {
        if ($this->portion === null) {
            [$this->portion, $this->inTurn, $this->isUnsure] = [$this->ledger->claim($inTurn, $this->size), $inTurn, false];
        }
        if ($this->portion === null) {
            return false;
        }
        $portion = $this->portion;
        $stretch = new Stretch($this->installation, $this->pass, $this->load, $portion->after, $portion->to, $this->inTurn);
        $receipt = $portion->isBegun || $this->isUnsure ? $this->target->recall($stretch) : null;
        $this->isUnsure = true;
        $this->ledger->record($stretch, $this->processor->process($this->cells($portion), $stretch, $receipt));
        $this->portion = null;

        return true;
    }

    /** @return array<int, list<string|null>> */
    private function cells(Portion $portion): array
    {
        $cells = $portion->rows === null
            ? $this->rows->between($portion->after, $portion->to)
            : $this->rows->numbered(array_values($portion->rows));

        return $portion->but === [] ? $cells : array_diff_key($cells, array_flip($portion->but));
    }
}
