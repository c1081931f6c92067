<?php

namespace Baggage\Core\Reconciling;

/** What part of a target field's value makes a group. */
enum GroupBy: string
{
    case Value = 'value';
    case Year = 'year';
    case Month = 'month';

    /** @return string the group of a value; '' of none */
    public function of(?string $value): string
    {
        return match (true) {
            $value === null => '',
            $this === self::Year => substr($value, 0, 4),
            $this === self::Month => substr($value, 0, 7),
            default => $value,
        };
    }
}
