<?php

namespace App\View\Drawing;

/** A rectangle in a drawing, in pixels. */
final readonly class Box
{
    public function __construct(public int $x, public int $y, public int $width, public int $height)
    {
    }

    public function right(): int
    {
        return $this->x + $this->width;
    }

    public function bottom(): int
    {
        return $this->y + $this->height;
    }
}
