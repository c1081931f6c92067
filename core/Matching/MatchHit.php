<?php

namespace Baggage\Core\Matching;

/** A record with the same match key. */
final readonly class MatchHit
{
    /** @param  bool  $taken whether a feed row of this round already stands for it */
    public function __construct(public string $targetKey, public bool $taken)
    {
    }
}
