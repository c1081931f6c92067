<?php

namespace Baggage\Core\Loading;

/** Rows of a load that one worker took. */
final readonly class Portion
{
    /**
     * @param  int  $after  the last row number before it
     * @param  int  $to  the last row number of it
     * @param  bool  $isBegun  whether the target may hold something of it: whoever took it first never recorded it
     * @param  array<int>|null  $rows  those of it that are meant; null for all
     * @param  array<int>  $but  those that are not meant
     * @param  bool  $isTold  whether what its rows claim is known
     */
    public function __construct(
        public int $after,
        public int $to,
        public bool $isBegun = false,
        public ?array $rows = null,
        public array $but = [],
        public bool $isTold = true,
    ) {
    }
}
