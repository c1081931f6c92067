<?php

namespace Baggage\Core\Targets\Conditions;

/** A record about to be written, as far as it is known. */
final readonly class Record
{
    /**
     * @param  array<string, string|null>  $values  by field, as a FieldType accepts them
     * @param  array<array-key, string>  $unknown  fields whose value only the target knows; those it knows to be filled with "filled"
     */
    public function __construct(private array $values, private array $unknown = [])
    {
    }

    /** @throws CannotTell */
    public function value(string $field): ?string
    {
        return isset($this->unknown[$field]) ? throw new CannotTell : $this->values[$field] ?? null;
    }

    /** @throws CannotTell */
    public function isFilled(string $field): bool
    {
        return ($this->unknown[$field] ?? null) === 'filled' || $this->value($field) !== null;
    }
}
