<?php

namespace Baggage\Core\Rows;

/** What became of one feed row in one load of one round. */
enum Outcome: string
{
    case Loaded = 'loaded';
    case Updated = 'updated';
    case Unchanged = 'unchanged';
    case Merged = 'merged';
    case Removed = 'removed';
    case Excluded = 'excluded';
    case Held = 'held';
    case Rejected = 'rejected';
    case Waived = 'waived';
    case Pending = 'pending';

    /** Whether somebody still has to do something about it. */
    public function isOpen(): bool
    {
        return $this === self::Held || $this === self::Rejected || $this === self::Pending;
    }

    public function meaning(): string
    {
        return match ($this) {
            self::Loaded => 'a new target record was created',
            self::Updated => 'an existing target record was changed',
            self::Unchanged => 'the existing target record already says this',
            self::Merged => 'folded into the record of another feed row',
            self::Removed => 'the target record was removed',
            self::Excluded => 'left out on purpose, with a reason',
            self::Held => 'waits for a parent row',
            self::Rejected => 'failed, with a cause',
            self::Waived => 'accepted to stay behind, with a reason',
            self::Pending => 'not processed yet',
        };
    }
}
