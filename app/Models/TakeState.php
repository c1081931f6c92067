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

    public function isGoing(): bool
    {
        return in_array($this, [self::Waiting, self::Reading, self::Stopping], true);
    }
}
