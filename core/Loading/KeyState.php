<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Rows\Outcome;

/** What is known of a legacy key in this round. */
final readonly class KeyState
{
    /** @param  int|null  $rootCause the cause that in the end keeps the row out */
    public function __construct(
        public Outcome $outcome,
        public ?string $targetKey,
        public int $load,
        public int $row,
        public ?int $rootCause = null,
    ) {
    }
}
