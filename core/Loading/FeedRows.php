<?php

namespace Baggage\Core\Loading;

/** Port: the rows of a take that a load reads, with the corrections that lie over them. */
interface FeedRows
{
    /** @return array<int, list<string|null>> row number → cells, at most $most rows with a number above $after, in row order */
    public function after(int $after, int $most): array;

    /**
     * @param  list<int>  $rows
     * @return array<int, list<string|null>> row number → cells, in row order
     */
    public function numbered(array $rows): array;
}
