<?php

namespace App\Models;

/** What a dry run tries. */
enum DryRunKind: string
{
    /** All rows, as the first pass of a round would. */
    case First = 'first';

    /** What loading again would take. */
    case Retry = 'retry';

    /** The rows of a repair that is not made yet. */
    case Repair = 'repair';
}
