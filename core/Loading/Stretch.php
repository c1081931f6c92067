<?php

namespace Baggage\Core\Loading;

/** Rows of one load that are worked on together in a pass. Where it begins names it: a resumed pass begins where the broken one did. */
final readonly class Stretch
{
    /**
     * @param  int  $after  the last row number before it
     * @param  int  $to  the last row number of it; $after where that is not known
     */
    public function __construct(
        public string $installation,
        public int $pass,
        public int $load,
        public int $after,
        public int $to,
    ) {
    }
}
