<?php

namespace Baggage\Core\Profiling;

use Baggage\Core\Reading\Remark;

/** What is known of a table once all its rows have gone by. */
final readonly class Profiled
{
    /**
     * @param  list<ColumnFacts>  $facts  by position
     * @param  list<Remark>  $remarks
     * @param  list<array<array-key, int>>  $values  by position: value → rows, the most frequent first; of columns with many different
     *                                               values those that come more than once
     */
    public function __construct(public array $facts, public array $remarks, public array $values)
    {
    }
}
