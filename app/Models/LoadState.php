<?php

namespace App\Models;

/** How far a load of a pass is. */
enum LoadState: string
{
    case Waiting = 'waiting';
    case Running = 'running';
    case Done = 'done';
    case Failed = 'failed';
    case Blocked = 'blocked';
    case LeftOut = 'left out';

    /** Whether nothing of the load is to be done in this pass any more. */
    public function isOver(): bool
    {
        return $this === self::Done || $this === self::LeftOut;
    }
}
