<?php

namespace Baggage\Core\Mapping;

/** What becomes of the record of a row that is delivered no more. */
enum GonePolicy: string
{
    case Keep = 'keep';
    case Remove = 'remove';
    case Review = 'review';

    public function meaning(): string
    {
        return match ($this) {
            self::Keep => 'the record stays, and is counted beside the rows delivered',
            self::Remove => 'the record is removed, if this round made it and nothing refers to it',
            self::Review => 'the record stays until somebody says what becomes of it',
        };
    }
}
