<?php

namespace App\Models;

/** How a round ended. */
enum RoundEnd: string
{
    case Closed = 'closed';
    case Abandoned = 'abandoned';
}
