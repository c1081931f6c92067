<?php

namespace Baggage\Core\Mapping;

/** What a later pass does about fields of a record of ours that somebody changed in the target since it was sent. */
enum OthersPolicy: string
{
    case Overwrite = 'overwrite';
    case Keep = 'keep';
    case Review = 'review';

    public function meaning(): string
    {
        return match ($this) {
            self::Overwrite => 'what the row says now is written over it, and that is told',
            self::Keep => 'those fields stay as they are, the others get what the row says now',
            self::Review => 'the record stays as it is, and the row waits among the rejects until somebody decides',
        };
    }
}
