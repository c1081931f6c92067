<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Rows\Journey;

/** One worker's part in one load of a pass, stretch after stretch, from wherever the ledger stands. */
final class LoadWork
{
    /** What is taken and not recorded yet. */
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
            [$this->portion, $this->inTurn, $this->isUnsure] = [$this->ledger->take($inTurn, $this->size), $inTurn, false];
        }
        if ($this->portion === null) {
            return false;
        }
        $journeys = $this->processor->prepare($this->cells($this->portion), $this->inTurn);
        $waiting = $this->portion->isTold ? [] : $this->ledger->tell($this->portion, $this->processor->claims($journeys));
        if ($waiting === null) {
            $this->portion = null;

            return true;
        }
        $this->portion = $this->told($this->portion, $waiting);
        $this->write($this->portion, $waiting === [] ? $journeys : $this->without($journeys, $waiting));
        $this->portion = null;

        return true;
    }

    /**
     * Settles a stretch somebody began: what the target has of it is recorded, and one it has nothing of is left.
     *
     * @return bool false when there is none
     *
     * @throws TargetUnavailable the same step may be tried again
     */
    public function settle(bool $inTurn): bool
    {
        $portion = $this->portion ??= $this->ledger->take($inTurn, $this->size);
        if ($portion === null) {
            return false;
        }
        [$this->inTurn, $this->isUnsure] = [$inTurn, true];
        $stretch = new Stretch($this->installation, $this->pass, $this->load, $portion->after, $portion->to, $inTurn);
        if ($this->target->recall($stretch) !== null) {
            return $this->step($inTurn);
        }
        $this->ledger->leave($portion, $inTurn);
        $this->portion = null;

        return true;
    }

    /**
     * @param  list<Journey>  $journeys
     *
     * @throws TargetUnavailable
     */
    private function write(Portion $portion, array $journeys): void
    {
        $stretch = new Stretch($this->installation, $this->pass, $this->load, $portion->after, $portion->to, $this->inTurn);
        $receipt = $portion->isBegun || $this->isUnsure ? $this->target->recall($stretch) : null;
        $this->isUnsure = true;
        $this->ledger->record($stretch, $this->processor->finish($journeys, $stretch, $receipt));
    }

    /** @param  list<int>  $waiting */
    private function told(Portion $portion, array $waiting): Portion
    {
        return new Portion($portion->after, $portion->to, $portion->isBegun, $portion->rows, [...$portion->but, ...$waiting]);
    }

    /**
     * @param  list<Journey>  $journeys
     * @param  list<int>  $waiting
     * @return list<Journey>
     */
    private function without(array $journeys, array $waiting): array
    {
        $waits = array_flip($waiting);

        return array_values(array_filter($journeys, fn (Journey $j) => ! isset($waits[$j->row])));
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
