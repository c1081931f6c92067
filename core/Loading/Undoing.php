<?php

namespace Baggage\Core\Loading;

/** What one row left in the target, on its way to be taken back. Mutable on purpose: each step writes what it found out. */
final class Undoing
{
    /** Why its record is left as it is; null where it is not. */
    public ?string $left = null;

    /** Whether only some of its fields are left: the others are as they were. */
    public bool $isInPart = false;

    /** Records the target has more or fewer for it. */
    public int $records = 0;

    /**
     * @param  string|null  $made  target key of the record it made
     * @param  string|null  $changed  target key of the record it changed
     * @param  array<string, string|null>  $before  what that record was before it was first changed, where it was
     * @param  string|null  $sentHash  of the record as it was sent
     * @param  bool  $isAlone  whether no other row changed that record too
     */
    public function __construct(
        public readonly int $row,
        public readonly string $legacyKey,
        public readonly ?string $made,
        public readonly ?string $changed,
        public readonly array $before,
        public readonly ?string $sentHash,
        public readonly bool $isAlone = true,
    ) {
    }

    /** Whether the record stands as it does, and with it the row's line. */
    public function keeps(): bool
    {
        return $this->left !== null && ! $this->isInPart;
    }
}
