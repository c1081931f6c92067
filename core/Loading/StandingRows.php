<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Rows\Standing;

/** Port: what rows of one load stand on that a pass works on again. */
interface StandingRows
{
    /**
     * @param  list<int>  $rows
     * @return array<int, Standing> by row, those that stand on a record
     */
    public function of(array $rows): array;
}
