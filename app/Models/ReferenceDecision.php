<?php

namespace App\Models;

/** What can be decided about columns that seem to name rows of another extract. */
enum ReferenceDecision: string
{
    case Found = 'found';
    case Accepted = 'accepted';
    case Dismissed = 'dismissed';
}
