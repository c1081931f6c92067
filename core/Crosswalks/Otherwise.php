<?php

namespace Baggage\Core\Crosswalks;

/** What a code crosswalk does with an old value it has no entry for; anything but rejecting has to be stated. */
enum Otherwise: string
{
    case Reject = 'reject';
    case Leave = 'empty';
    case Value = 'value';

    public function label(): string
    {
        return match ($this) {
            self::Reject => 'reject the row',
            self::Leave => 'leave the field empty',
            self::Value => 'give them all one value',
        };
    }
}
