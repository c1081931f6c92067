<?php

namespace Baggage\Core\Feeds;

/** How a feed is made out of frozen extracts. */
enum Combination: string
{
    case Join = 'join';
    case Stack = 'stack';
    case Distinct = 'distinct';
    case Position = 'position';

    public function label(): string
    {
        return match ($this) {
            self::Join => 'joined by key',
            self::Stack => 'stacked',
            self::Distinct => 'distinct values',
            self::Position => 'side by side, row by row',
        };
    }

    /** @return array{int, int} least and most extracts it is made of */
    public function extracts(): array
    {
        return match ($this) {
            self::Join, self::Position => [2, 2], self::Distinct => [1, 1], self::Stack => [2, 20],
        };
    }
}
