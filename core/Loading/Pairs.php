<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Rows\Journey;

/** Port: which records of the target rows are, as people said. */
interface Pairs
{
    /**
     * @param  non-empty-list<Journey>  $journeys
     * @return array<int, string> row → target key
     */
    public function of(array $journeys): array;
}
