<?php

namespace Baggage\Core\Loading;

/** What a target is to do for one row. */
final readonly class Order
{
    /**
     * @param  string|null  $targetKey  of the record that is there already; null for one to be created
     * @param  array<string, string|null>  $values  by field; a field that is not named keeps what it has, or its default
     */
    public function __construct(
        public int $row,
        public string $legacyKey,
        public Verb $verb,
        public ?string $targetKey,
        public array $values,
    ) {
    }
}
