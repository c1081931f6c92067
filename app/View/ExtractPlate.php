<?php

namespace App\View;

use App\Models\Extract;
use App\View\Drawing\Box;

/** An extract in the picture of what hangs on what. */
final readonly class ExtractPlate
{
    public function __construct(public Extract $extract, public Box $box)
    {
    }
}
