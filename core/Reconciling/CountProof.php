<?php

namespace Baggage\Core\Reconciling;

use Baggage\Core\Rows\Outcome;

/**
 * The conservation law for a load or an entity in a round (DESIGN section 2): what came in equals what became of it, and the
 * target grew by exactly what was created.
 */
final readonly class CountProof
{
    /** Beside the outcomes: rows left out now whose record stands with older values. */
    public const OLDER = 'older';

    /**
     * @param  int  $sourceRows  counted from the source itself, apart from reading its cells
     * @param  int  $feedRows  rows frozen
     * @param  array<string, int>  $outcomes  outcome → rows, from the ledger
     * @param  int  $notReached  rows no pass has come to yet
     * @param  int|null  $targetBefore  records in the target before the first pass
     * @param  int|null  $targetAfter  records in the target now, or at the end of the last pass where the round is not the newest
     * @param  int  $otherOrigin  of them, what came or went between passes and since: others did that
     * @param  int  $made  records made less those removed, counted by effect
     * @param  int  $removed  records removed, counted by effect
     * @param  int|null  $statedRows  what the client says there are; null where they do not say, of all of it
     */
    public function __construct(
        public int $sourceRows,
        public int $feedRows,
        public array $outcomes,
        public int $notReached,
        public ?int $targetBefore = null,
        public ?int $targetAfter = null,
        public int $otherOrigin = 0,
        public int $made = 0,
        public int $removed = 0,
        public ?int $statedRows = null,
    ) {
    }

    /** Rows among those left out whose record stands with the values it had before they failed. */
    public function older(): int
    {
        return $this->outcomes[self::OLDER] ?? 0;
    }

    public function count(Outcome $outcome): int
    {
        return ($this->outcomes[$outcome->value] ?? 0) + ($outcome === Outcome::Pending ? $this->notReached : 0);
    }

    /** Rows that came in and are nowhere; 0 when the law holds. */
    public function unaccounted(): int
    {
        $inside = array_filter(Outcome::cases(), fn (Outcome $o) => ! $o->isBeside());
        $rows = array_intersect_key($this->outcomes, array_flip(array_map(fn (Outcome $o) => $o->value, $inside)));

        return $this->feedRows - array_sum($rows) - $this->notReached;
    }

    /** Rows the source holds by its own count and the extract does not. */
    public function lostInReading(): int
    {
        return $this->sourceRows - $this->feedRows;
    }

    /** Rows the client states and that were not read; 0 where they state nothing. */
    public function notDelivered(): int
    {
        return $this->statedRows === null ? 0 : $this->statedRows - $this->feedRows;
    }

    /** Records made, those removed since included. */
    public function everMade(): int
    {
        return $this->made + $this->removed;
    }

    /** Records the target gained during passes beyond what they made; null while it has not been counted. */
    public function targetGap(): ?int
    {
        return $this->targetBefore === null || $this->targetAfter === null
            ? null
            : $this->targetAfter - $this->targetBefore - $this->otherOrigin - $this->made;
    }

    public function holds(): bool
    {
        return $this->unaccounted() === 0 && $this->lostInReading() === 0 && $this->notDelivered() === 0 && ($this->targetGap() ?? 0) === 0;
    }

    /** Rows somebody still has to act on. */
    public function open(): int
    {
        return array_sum(array_map($this->count(...), array_filter(Outcome::cases(), fn (Outcome $o) => $o->isOpen())));
    }

    /** The proof of several loads of one entity together; the target is counted once for all. */
    public static function sum(self $first, self ...$others): self
    {
        $all = [$first, ...$others];
        $outcomes = [];
        foreach ($all as $proof) {
            foreach ($proof->outcomes as $outcome => $n) {
                $outcomes[$outcome] = ($outcomes[$outcome] ?? 0) + $n;
            }
        }

        return new self(
            array_sum(array_map(fn (self $p) => $p->sourceRows, $all)),
            array_sum(array_map(fn (self $p) => $p->feedRows, $all)),
            $outcomes,
            array_sum(array_map(fn (self $p) => $p->notReached, $all)),
            $first->targetBefore,
            $first->targetAfter,
            $first->otherOrigin,
            $first->made,
            $first->removed,
            in_array(null, array_map(fn (self $p) => $p->statedRows, $all), true)
                ? null
                : array_sum(array_map(fn (self $p) => (int) $p->statedRows, $all)),
        );
    }
}
