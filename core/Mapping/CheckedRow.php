<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Crosswalks\ParentKey;

/** What a row that passed its scope is to be held against: others by its keys, parents by theirs. */
final readonly class CheckedRow
{
    /**
     * @param  array<string, string>  $values  by field
     * @param  array<string, ParentKey>  $parents  by field
     */
    public function __construct(
        public string $legacyKey,
        public array $values,
        public array $parents,
    ) {
    }
}
