<?php

namespace Baggage\Core\Crosswalks;

/** A maintained table old value → new value. Old values are compared exactly, blanks around them aside. */
final readonly class CodeCrosswalk
{
    /** @param  array<array-key, string|null>  $entries old value → new value, null for "left empty on purpose" */
    public function __construct(public string $name, private array $entries)
    {
    }

    public function knows(string $old): bool
    {
        return array_key_exists(trim($old), $this->entries);
    }

    public function newValue(string $old): ?string
    {
        return $this->entries[trim($old)] ?? null;
    }
}
