<?php

namespace App\Files;

use App\Models\Load;
use App\Rejects\CauseGroup;

/** What the client's people are asked of rows that fail alike. */
final readonly class Question
{
    /**
     * @param  string  $asks  what is wrong, in their words
     * @param  string  $header  title of the column the answer is for
     * @param  \stdClass|null  $task  to whom the cause was given, and until when
     * @param  list<array{string, string, string}>  $choices  column, value and what it becomes, where the values are few
     * @param  list<\stdClass>  $values  id, cell, others, rows, message, answered
     * @param  int  $answered  of those values
     * @param  int  $left  values that are not asked here
     */
    public function __construct(
        public string $asks,
        public CauseGroup $group,
        public Load $load,
        public string $header,
        public int $position,
        public ?\stdClass $task,
        public array $choices,
        public array $values,
        public int $answered,
        public int $left,
    ) {
    }
}
