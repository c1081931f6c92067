<?php

namespace App\Mapping;

/** Where the hashes of one reference of a check lie, its own keys on one side and those of the parents on the other. */
final readonly class CheckSide
{
    /** @param  string  $field  "" for the key of a row that changes the record it leads to */
    public function __construct(
        public string $field,
        public string $entity,
        public string $space,
        public int $child,
        public int $parent,
    ) {
    }
}
