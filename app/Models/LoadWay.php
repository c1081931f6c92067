<?php

namespace App\Models;

/** How the rows of a load are worked on in a pass. */
enum LoadWay: string
{
    case Unknown = '';

    /** What rows claim for themselves is worked out first. */
    case Claims = 'claims';

    /** Those that share no claim go in any order, by any number of workers; the others one after another. */
    case Free = 'free';

    /** All go one after another. */
    case Turn = 'turn';
}
