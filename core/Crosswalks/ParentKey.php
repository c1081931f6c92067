<?php

namespace Baggage\Core\Crosswalks;

/** The legacy key of a parent as a rule states it; the pass turns it into a target key. */
final readonly class ParentKey
{
    /** @param  list<string|null>  $parts */
    public function __construct(public string $space, public array $parts)
    {
    }

    public function __toString(): string
    {
        return implode(' / ', $this->parts);
    }
}
