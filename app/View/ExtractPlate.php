<?php

namespace App\View;

use App\Models\Extract;

/** An extract in the picture of what hangs on what. */
final readonly class ExtractPlate
{
    public function __construct(
        public Extract $extract,
        public int $x,
        public int $y,
    ) {
    }
}
