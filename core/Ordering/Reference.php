<?php

namespace Baggage\Core\Ordering;

/** A field of one entity that holds the key of another. */
final readonly class Reference
{
    public function __construct(
        public string $child,
        public string $field,
        public string $parent,
        public bool $required,
    ) {
    }
}
