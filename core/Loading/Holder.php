<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Rows\Outcome;

/** A row that stands on a record, as the one it was made from or changed by. */
final readonly class Holder
{
    /** @param  bool  $isGone  whether it is in the client's data no more; its outcome is the one it had */
    public function __construct(
        public int $load,
        public int $row,
        public string $legacyKey,
        public Outcome $outcome,
        public bool $isGone = false,
    ) {
    }
}
