<?php

namespace Baggage\Core\Loading;

/** What a target did about an order. */
enum Done: string
{
    case Created = 'c';
    case Changed = 'u';
    case Same = 's';
    case Removed = 'd';
    case Gone = 'g';
    case Refused = 'r';

    /** Records more or fewer in the target for it. */
    public function records(): int
    {
        return match ($this) {
            self::Created => 1,
            self::Removed => -1,
            default => 0,
        };
    }
}
