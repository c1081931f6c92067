<?php

namespace Baggage\Core\Loading;

/** Port: the rows of a take that a load reads, with the corrections that lie over them. */
interface FeedRows
{
    /** @return array<int, list<string|null>> row number → cells, those with a number above $after and up to $to, in row order */
    public function between(int $after, int $to): array;

    /**
     * @param  list<int>  $rows
     * @return array<int, list<string|null>> row number → cells, in row order
     */
    public function numbered(array $rows): array;
}
