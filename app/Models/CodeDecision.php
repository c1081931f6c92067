<?php

namespace App\Models;

/** What an entry of a code crosswalk does with its old value; a value may be none, which leaves the field empty. */
enum CodeDecision: string
{
    case Value = 'value';
    case Reject = 'reject';
}
