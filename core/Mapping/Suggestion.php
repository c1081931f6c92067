<?php

namespace Baggage\Core\Mapping;

/** A rule that may be right for a field, and why. */
final readonly class Suggestion
{
    public function __construct(
        public string $field,
        public string $column,
        public string $expression,
        public string $reason,
        public float $weight,
    ) {
    }
}
