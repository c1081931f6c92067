<?php

namespace Baggage\Core\Crosswalks;

use Baggage\Core\Reading\Blank;

/** How the parts of a legacy key are written before they are compared, stated per load. */
enum KeyNormalisation: string
{
    case Exact = 'exact';
    case Trim = 'trim';
    case Capitals = 'capitals';
    case Number = 'number';

    public function label(): string
    {
        return match ($this) {
            self::Exact => 'exactly as read',
            self::Trim => 'without blanks at the ends',
            self::Capitals => 'trimmed, in capitals',
            self::Number => 'trimmed, in capitals, without leading zeros',
        };
    }

    public function part(?string $part): string
    {
        $part = (string) $part;
        if ($this === self::Exact) {
            return $part;
        }
        $part = Blank::is($part) ? '' : trim($part);
        if ($this === self::Trim) {
            return $part;
        }
        $part = mb_strtoupper($part);

        return $this === self::Number && $part !== '' ? (ltrim($part, '0') ?: '0') : $part;
    }
}
