<?php

namespace Baggage\Core\Loading;

/** What a lane leaves in a target so that others see it was there: written with its first records. */
final readonly class Mark
{
    /** @param  string  $begun  in UTC, as YYYY-MM-DD HH:MM:SS */
    public function __construct(public string $installation, public int $lane, public string $round, public string $begun)
    {
    }
}
