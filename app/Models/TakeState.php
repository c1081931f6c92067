<?php

namespace App\Models;

/** How far the reading of a take is. */
enum TakeState: string
{
    case Waiting = 'waiting';
    case Reading = 'reading';
    case Stopping = 'stopping';
    case Frozen = 'frozen';
    case Failed = 'failed';
}
