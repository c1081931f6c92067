<?php

namespace Baggage\Core\Reading;

/** One column of an extract: its exact header and the tidy name expressions use. */
final readonly class Column
{
    public function __construct(public int $position, public string $header, public string $name)
    {
    }
}
