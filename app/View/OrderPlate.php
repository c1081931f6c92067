<?php

namespace App\View;

use App\Models\Load;

/** An entity in the order chart, with the loads that fill it. */
final readonly class OrderPlate
{
    /** @param  list<Load>  $loads */
    public function __construct(
        public int $x,
        public int $y,
        public int $height,
        public array $loads,
    ) {
    }
}
