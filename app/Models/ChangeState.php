<?php

namespace App\Models;

/** What was decided about a change of a list. */
enum ChangeState: string
{
    case Open = 'open';
    case Accepted = 'accepted';
    case Refused = 'refused';
    case Void = 'void';

    public function label(): string
    {
        return match ($this) {
            self::Open => 'to be decided',
            self::Accepted => 'accepted',
            self::Refused => 'refused',
            self::Void => 'cannot be made',
        };
    }

    /** The look of the word. */
    public function tone(): string
    {
        return match ($this) {
            self::Void => 'bad',
            self::Accepted => 'good',
            default => '',
        };
    }
}
