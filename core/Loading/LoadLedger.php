<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Rows\Journey;

/** Port: what became of the rows of one load, as one pass writes it. Several workers may write at the same time, each by one of these. */
interface LoadLedger
{
    /**
     * Rows for this worker alone: first those somebody claimed and never recorded.
     *
     * @param  bool  $inTurn  those that go one after another, in row order
     * @return Portion|null null where nobody has to do anything more of that kind, or somebody else is at it
     */
    public function claim(bool $inTurn, int $most): ?Portion;

    /**
     * Outcomes, causes, open references, match keys and figures of a stretch, and that it is done: all or nothing. Rows whose record
     * another row takes over wait again.
     *
     * @param  list<Journey>  $journeys  a row without an outcome waits
     */
    public function record(Stretch $stretch, array $journeys): void;
}
