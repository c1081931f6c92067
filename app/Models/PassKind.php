<?php

namespace App\Models;

/** What a pass does in its round. */
enum PassKind: string
{
    case First = 'first';
    case Retry = 'retry';

    /** Takes the round to newer takes, rules, codes or decisions: sends what differs. */
    case Delta = 'delta';

    /** Takes back what earlier passes wrote. */
    case BackOut = 'back-out';
}
