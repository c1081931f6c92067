<?php

namespace Baggage\Core\Reading;

/** Something a person should know about how a table was read. */
final readonly class Remark
{
    /** The number with the words that fit it: "1 cell holds", "2 cells hold". */
    public static function say(int $n, string $one, string $many): string
    {
        return number_format($n).' '.($n === 1 ? $one : $many);
    }

    /**
     * @param  string  $code  names the kind, e.g. "cut_off"
     * @param  string  $message  a sentence
     * @param  int  $count  rows or cells it concerns, 0 when it concerns the whole
     * @param  list<int>  $rows  row numbers, from 1, at most RowList::KEPT
     * @param  bool  $inLines  whether $rows are lines of the file or rows of the sheet instead
     */
    public function __construct(
        public string $code,
        public string $message,
        public int $count = 0,
        public array $rows = [],
        public ?int $column = null,
        public bool $inLines = false,
    ) {
    }
}
