<?php

namespace Baggage\Core\Reading;

/** One row as it stands in the file. */
final readonly class RawRow
{
    /**
     * @param  list<string|null>  $cells
     * @param  int  $line  physical line (or sheet row, or record) the row begins in, from 1
     */
    public function __construct(public int $line, public array $cells)
    {
    }
}
