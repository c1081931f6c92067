<?php

namespace App\DryRuns;

use Baggage\Core\Loading\Pairs;
use Baggage\Core\Rows\Journey;

/** Pairs there are, and one that is not made yet. */
final readonly class SupposedPairs implements Pairs
{
    /** @param  list<int>  $rows  that are to be the record */
    public function __construct(private Pairs $pairs, private array $rows, private string $targetKey)
    {
    }

    public function of(array $journeys): array
    {
        $rows = array_intersect(array_map(fn (Journey $j) => $j->row, $journeys), $this->rows);

        return array_fill_keys($rows, $this->targetKey) + $this->pairs->of($journeys);
    }
}
