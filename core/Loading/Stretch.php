<?php

namespace Baggage\Core\Loading;

/**
 * Rows of one load that are worked on together in a pass. Where it begins names it, with the way it is worked on: whoever takes it up
 * after a worker that died finds what the target did by that name.
 */
final readonly class Stretch
{
    /**
     * @param  int  $after  the last row number before it
     * @param  int  $to  the last row number of it
     * @param  bool  $inTurn  whether its rows may be in each other's way, so that the first in row order goes first
     * @param  bool  $isOfGone  whether records of rows that are delivered no more are removed
     */
    public function __construct(
        public string $installation,
        public int $pass,
        public int $load,
        public int $after,
        public int $to,
        public bool $inTurn = false,
        public bool $isOfGone = false,
    ) {
    }

    /** Not equal for two stretches of any installations that write into one target. */
    public function name(): string
    {
        return "$this->installation:$this->pass:$this->load:$this->after".($this->inTurn ? ':turn' : '').($this->isOfGone ? ':gone' : '');
    }
}
