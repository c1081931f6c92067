<?php

namespace Baggage\Core\Targets\Conditions;

/** A number, a text or a date as it is written. */
final readonly class Constant implements Operand
{
    public function __construct(public string $value, private Kind $kind)
    {
    }

    public function value(Record $record): string
    {
        return $this->value;
    }

    public function words(): string
    {
        return $this->value === '' ? 'an empty text' : $this->value;
    }

    public function kind(): Kind
    {
        return $this->kind;
    }

    public function fields(): array
    {
        return [];
    }
}
