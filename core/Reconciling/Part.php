<?php

namespace Baggage\Core\Reconciling;

use Baggage\Core\Rows\Outcome;

/** What the rows behind a control total are split into (SEMANTICS 31). */
enum Part: string
{
    case AsIs = 'as is';
    case Merged = 'merged';
    case Removed = 'removed';
    case Excluded = 'excluded';
    case Held = 'held';
    case Rejected = 'rejected';
    case Waived = 'waived';

    /** Rows left out now whose record stands with older values; here by what they say now. */
    case Older = 'older';
    case Pending = 'pending';

    /**
     * @param  Outcome|null  $outcome  null where the row has no line
     * @param  bool  $hasRecord  whether it stands on one
     * @return self|null null for what stands beside the sum
     */
    public static function of(?Outcome $outcome, bool $hasRecord): ?self
    {
        return match ($outcome) {
            Outcome::Loaded, Outcome::Updated, Outcome::Unchanged => self::AsIs,
            Outcome::Merged => self::Merged,
            Outcome::Removed => self::Removed,
            Outcome::Excluded => $hasRecord ? self::Older : self::Excluded,
            Outcome::Held => $hasRecord ? self::Older : self::Held,
            Outcome::Rejected => $hasRecord ? self::Older : self::Rejected,
            Outcome::Waived => $hasRecord ? self::Older : self::Waived,
            Outcome::Pending, null => self::Pending,
            default => null,
        };
    }
}
