<?php

namespace App\Models;

/** How far a piece of work is that a worker does for somebody. */
enum WorkState: string
{
    case Queued = 'queued';
    case Running = 'running';
    case Done = 'done';
    case Refused = 'refused';

    public function isGoing(): bool
    {
        return $this === self::Queued || $this === self::Running;
    }
}
