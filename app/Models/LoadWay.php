<?php

namespace App\Models;

/** How the rows of a load are worked on in a pass. */
enum LoadWay: string
{
    case Unknown = '';

    /** Those that share no claim with an earlier one go in any order, by any number of workers; the others one after another. */
    case Free = 'free';

    /** All go one after another. */
    case Turn = 'turn';
}
