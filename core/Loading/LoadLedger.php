<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Rows\Journey;

/** Port: what became of the rows of one load, as one pass writes it. */
interface LoadLedger
{
    /** The last row number of the pass whose outcome is written. */
    public function position(): int;

    /**
     * Outcomes, causes, open references, match keys and figures of a stretch, and that the pass has come so far: all or nothing.
     *
     * @param  list<Journey>  $journeys  a row without an outcome waits
     */
    public function record(Stretch $stretch, array $journeys): void;

    /**
     * Rows a retry takes, in row order: those that wait, and those held by a parent that has a target key now.
     *
     * @return list<int>
     */
    public function due(int $after, int $most): array;

    /** The last row number whose key is announced; null where keys of this load need not be known ahead. */
    public function announced(): ?int;

    /**
     * Rows that wait, known by their keys before they are worked on.
     *
     * @param  array<int, string>  $keys  row number → legacy key
     */
    public function announce(array $keys): void;
}
