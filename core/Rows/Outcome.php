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

    /** Its row is in the client's data no more; key and record are kept. */
    case Gone = 'gone';

    /** The same, and somebody is to say what becomes of the record. */
    case Review = 'review';

    /** The same, and no record stands for it: it never had one, or that was removed or is another row's. */
    case Withdrawn = 'withdrawn';

    /** Whether somebody still has to do something about it. */
    public function isOpen(): bool
    {
        return $this === self::Held || $this === self::Rejected || $this === self::Pending || $this === self::Review;
    }

    /** Whether it is that of a row that is in the client's data no more: it stands beside the sum. */
    public function isBeside(): bool
    {
        return $this === self::Gone || $this === self::Review || $this === self::Withdrawn;
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
            self::Gone => 'no longer delivered; its record is kept',
            self::Review => 'no longer delivered; somebody is to say what becomes of its record',
            self::Withdrawn => 'no longer delivered, and no record stands for it',
        };
    }
}
