<?php

namespace App\Models;

/** What a dry run tries. */
enum DryRunKind: string
{
    /** All rows, as the first pass of a round would. */
    case First = 'first';

    /** What loading again would take. */
    case Retry = 'retry';

    /** What differs from what a round knows, as a delta would send it. */
    case Delta = 'delta';

    /** The rows of a repair that is not made yet. */
    case Repair = 'repair';
}
