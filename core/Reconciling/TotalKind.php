<?php

namespace Baggage\Core\Reconciling;

/** What a control total makes of many values. */
enum TotalKind: string
{
    case Sum = 'sum';
    case Count = 'count';
    case Smallest = 'smallest';
    case Largest = 'largest';
    case Distinct = 'distinct';

    /** The sum of the CRC-32 (ITU-T V.42, as zlib and MariaDB's CRC32() give it) of every value: whatever order they come in. */
    case Hash = 'hash';

    /** Whether it adds up over the parts of SEMANTICS 31; the others compare what stands with its records. */
    public function adds(): bool
    {
        return in_array($this, [self::Sum, self::Count, self::Hash], true);
    }

    public function label(): string
    {
        return match ($this) {
            self::Sum => 'sum',
            self::Count => 'number of values',
            self::Smallest => 'smallest',
            self::Largest => 'largest',
            self::Distinct => 'different values',
            self::Hash => 'hash total',
        };
    }
}
