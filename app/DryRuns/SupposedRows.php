<?php

namespace App\DryRuns;

use Baggage\Core\Loading\FeedRows;

/** Rows of a take with a repair laid over them that is not made yet. */
final readonly class SupposedRows implements FeedRows
{
    /**
     * @param  \Closure(list<int>): list<int>  $which  those of some rows that are to be repaired
     * @param  int|null  $position  of the cell that gets the value; null for whole rows
     */
    public function __construct(private FeedRows $rows, private \Closure $which, private ?int $position, private Supposed $supposed)
    {
    }

    public function between(int $after, int $to): array
    {
        return $this->laid($this->rows->between($after, $to));
    }

    public function numbered(array $rows): array
    {
        return $this->laid($this->rows->numbered($rows));
    }

    /**
     * @param  array<int, list<string|null>>  $cells  by row
     * @return array<int, list<string|null>>
     */
    private function laid(array $cells): array
    {
        foreach (($this->which)(array_keys($cells)) as $row) {
            $cells[$row] = $this->position === null
                ? $this->supposed->cells ?? $cells[$row]
                : array_values(array_replace(
                    array_pad($cells[$row], $this->position + 1, null), [$this->position => $this->supposed->new],
                ));
        }

        return $cells;
    }
}
