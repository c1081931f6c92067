<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Rows\Outcome;

/** What is known of a legacy key in this round. */
final readonly class KeyState
{
    /**
     * @param  int|null  $rootCause the cause that in the end keeps the row out
     * @param  string|null  $why  in words, where it was left behind on purpose
     * @param  self|null  $beside  another row with the key whose record is about to be removed, and may be had
     * @param  bool  $isLeaving  whether its record is about to be removed for that
     * @param  bool  $isGone  whether its row is in the client's data no more; its outcome is the one it had
     */
    public function __construct(
        public Outcome $outcome,
        public ?string $targetKey,
        public int $load,
        public int $row,
        public ?int $rootCause = null,
        public ?string $why = null,
        public bool $isGone = false,
        public bool $isLeaving = false,
        public ?self $beside = null,
    ) {
    }

    /**
     * Which of two rows with one key says what is known of it: one with a record before others, one that may still get one before
     * one that was left behind, the earlier before the later.
     */
    public static function better(?self $known, self $other): self
    {
        if ($known !== null && $known->isLeaving !== $other->isLeaving) {
            return $known->isLeaving ? $other->with($known) : $known->with($other);
        }

        return $known === null
            || ($known->targetKey === null && ($other->targetKey !== null || ($known->isLeft() && ! $other->isLeft())))
                ? ($known?->beside === null ? $other : $other->with($known->beside))
                : $known;
    }

    private function with(self $leaving): self
    {
        return new self(
            $this->outcome, $this->targetKey, $this->load, $this->row, $this->rootCause, $this->why, $this->isGone, false, $leaving,
        );
    }

    /** Its record, where one is there to stay. */
    public function record(): ?string
    {
        return $this->isLeaving ? null : $this->targetKey;
    }

    /** Its record, also one that is about to go. */
    public function stood(): ?string
    {
        return $this->targetKey ?? $this->beside?->targetKey;
    }

    /** Whether it was left behind on purpose: no record will ever be there. */
    public function isLeft(): bool
    {
        $left = [Outcome::Waived, Outcome::Excluded, Outcome::Removed, Outcome::Withdrawn];

        return $this->isLeaving || ($this->targetKey === null && in_array($this->outcome, $left, true));
    }
}
