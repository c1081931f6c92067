<?php

namespace App\Models;

/** How far the check of a load is. */
enum CheckState: string
{
    case Queued = 'queued';
    case Running = 'running';
    case Stopping = 'stopping';
    case Stopped = 'stopped';
    case Done = 'done';
    case Failed = 'failed';
}
