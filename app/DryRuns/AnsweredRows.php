<?php

namespace App\DryRuns;

use App\Decisions\AnswerChanges;
use Baggage\Core\Loading\FeedRows;

/** Rows of a take with what the client answered laid over them. */
final readonly class AnsweredRows implements FeedRows
{
    /** @param  int  $width  columns of the take: a row that is answered has as many cells afterwards */
    public function __construct(private FeedRows $rows, private AnswerChanges $changes, private int $width)
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
        foreach ($this->changes->over(array_keys($cells)) as $row => $becomes) {
            $cells[$row] = AnswerChanges::answered($cells[$row], $becomes, $this->width);
        }

        return $cells;
    }
}
