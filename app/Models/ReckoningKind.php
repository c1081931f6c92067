<?php

namespace App\Models;

/** What is counted of a round besides its rows. */
enum ReckoningKind: string
{
    case Totals = 'totals';
    case Comparison = 'comparison';
}
