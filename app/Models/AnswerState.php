<?php

namespace App\Models;

enum AnswerState: string
{
    case Waiting = 'waiting';

    /** Columns are called otherwise than they were: somebody has to say which is which. */
    case Asking = 'asking';

    /** What was changed in it stands in a list. */
    case Listed = 'listed';
    case Refused = 'refused';
}
