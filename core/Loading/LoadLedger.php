<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Rows\Journey;

/** Port: what became of the rows of one load, as one pass writes it. Several workers may write at the same time, each by one of these. */
interface LoadLedger
{
    /**
     * Rows for this worker alone: first those somebody took and never recorded.
     *
     * @param  bool  $inTurn  those that go one after another, in row order
     * @return Portion|null null where nobody has to do anything more of that kind, or somebody else is at it
     */
    public function take(bool $inTurn, int $most): ?Portion;

    /**
     * What the rows of a portion claim, told before any of them is written. Portions are told in row order, so this waits for those
     * who are at earlier rows.
     *
     * @param  array<int, non-empty-list<string>>  $claims  row → hashes of 8 bytes
     * @return list<int>|null rows that share a claim with an earlier one, which go one after another when the others are through;
     *                        null where somebody died over earlier rows: the portion is given back then
     */
    public function tell(Portion $portion, array $claims): ?array;

    /** Nothing of a portion stands in the target, and nobody is to go on with it: its rows are as if they had not been taken. */
    public function leave(Portion $portion, bool $inTurn): void;

    /**
     * Outcomes, causes, open references, match keys and figures of a stretch, and that it is done: all or nothing. Rows whose record
     * another row takes over wait again.
     *
     * @param  list<Journey>  $journeys  a row without an outcome waits
     */
    public function record(Stretch $stretch, array $journeys): void;
}
