<?php

namespace App\Overview;

/** An extract as forms list it. */
final readonly class ListedExtract
{
    /** @param  string  $source  code */
    public function __construct(public int $id, public string $name, public string $source)
    {
    }
}
