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
}
