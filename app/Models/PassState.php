<?php

namespace App\Models;

/** How far a pass is. */
enum PassState: string
{
    case Queued = 'queued';
    case Running = 'running';
    case Stopped = 'stopped';
    case Failed = 'failed';
    case Finished = 'finished';
}
