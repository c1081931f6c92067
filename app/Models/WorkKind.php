<?php

namespace App\Models;

/** What a worker does for somebody because it takes longer than a page. */
enum WorkKind: string
{
    case CorrectValue = 'correct value';
    case Waive = 'waive';
    case TakeBack = 'take back';
    case Confirm = 'confirm';
    case Ask = 'ask';
    case References = 'references';
    case Rows = 'rows';
    case EndRound = 'end round';
    case Remove = 'remove';
    case Undo = 'undo';
    case TakeIn = 'take in';
    case File = 'file';
    case Answer = 'answer';
    case Annotate = 'annotate';
    case Reckon = 'reckon';
    case WriteAgain = 'write again';
    case LeaveAsIs = 'leave as is';

    public function changesOutcomes(): bool
    {
        return in_array($this, [self::Waive, self::TakeBack, self::Confirm, self::References, self::Undo], true);
    }

    /** Whether it can be stopped on the way, and leaves nothing then. */
    public function canStop(): bool
    {
        return $this === self::Reckon;
    }

    /** Whether it changes what a pass goes by. */
    public function isRepair(): bool
    {
        return ! in_array($this, [self::Rows, self::File, self::Answer, self::Annotate, self::Reckon], true);
    }
}
