<?php

namespace App\Ledger;

/** Whether a reference that is set after its record was written has been set. */
enum LinkState: string
{
    case Waiting = 'waiting';
    case Made = 'made';
    case Waived = 'waived';
}
