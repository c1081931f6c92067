<?php

namespace Baggage\Core\Loading;

/** One worker's part in working out the claims of a load's rows, before any load of its entity writes. */
final readonly class ClaimWork
{
    private const AT_ONCE = 10_000;

    public function __construct(private FeedRows $rows, private Claims $claims, private ClaimBook $book)
    {
    }

    /** @return bool false when there is nothing to be had */
    public function step(): bool
    {
        $portion = $this->book->next(self::AT_ONCE);
        if ($portion === null) {
            return false;
        }
        $this->book->put($portion, $this->claims->ofRows($this->rows->between($portion->after, $portion->to)));

        return true;
    }
}
