<?php

namespace App\Catalogue;

/** A column a code crosswalk is applied to, in the rule of a field. */
final readonly class CodeColumn
{
    /** @param  bool  $isDirect  whether the field gets the new value as it is, and nothing is done with it */
    public function __construct(
        public int $load,
        public string $loadName,
        public int $entity,
        public string $field,
        public ?int $take,
        public int $column,
        public bool $isDirect = false,
    ) {
    }

    /** @return list<int|string|bool|null> */
    public function toArray(): array
    {
        return array_values(get_object_vars($this));
    }

    /** "Vessels, kind". */
    public function label(): string
    {
        return "$this->loadName, $this->field";
    }
}
