<?php

namespace Tests\Support;

use Baggage\Core\Loading\FeedRows;

/** The rows of a take, kept in memory. */
final readonly class MemoryTake implements FeedRows
{
    /** @param  array<int, list<string|null>>  $rows  row number → cells, in row order */
    public function __construct(public array $rows)
    {
    }

    public function between(int $after, int $to): array
    {
        return array_filter($this->rows, fn (int $row) => $row > $after && $row <= $to, ARRAY_FILTER_USE_KEY);
    }

    public function numbered(array $rows): array
    {
        return array_intersect_key($this->rows, array_flip($rows));
    }
}
