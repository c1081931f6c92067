<?php

namespace App\DryRuns;

use Baggage\Core\Loading\Waivers;
use Baggage\Core\Rows\Journey;

/** Waivers there are, and those of a repair that is not made yet. */
final readonly class SupposedWaivers implements Waivers
{
    /** @param  \Closure(list<int>): list<int>  $which  those of some rows that are to stay behind */
    public function __construct(private Waivers $waivers, private \Closure $which)
    {
    }

    public function covering(array $rejected): array
    {
        $rows = array_map(fn (Journey $j) => $j->row, $rejected);

        return array_values(array_unique([...$this->waivers->covering($rejected), ...($this->which)($rows)]));
    }
}
