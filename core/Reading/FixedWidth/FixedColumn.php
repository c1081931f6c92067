<?php

namespace Baggage\Core\Reading\FixedWidth;

/** One column of a fixed-width text. */
final readonly class FixedColumn
{
    /** @param  int  $from first character, from 1 */
    public function __construct(public string $name, public int $from, public int $to)
    {
    }
}
