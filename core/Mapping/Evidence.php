<?php

namespace Baggage\Core\Mapping;

/** Something that speaks for a column filling a field: the rule it would need, why in words with figures, and how much it weighs. */
final readonly class Evidence
{
    /** @param  float  $weight  from 0 to 1 */
    public function __construct(public string $rule, public string $why, public float $weight)
    {
    }
}
