<?php

namespace App\View\Drawing;

/** What a line is to connect: out of the right side of one box, into the left side of another. */
final readonly class Edge
{
    /** @param  int  $label  width of the number on it, 0 for none */
    public function __construct(public int|string $from, public int|string $to, public int $label = 0)
    {
    }
}
