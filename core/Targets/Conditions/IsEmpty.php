<?php

namespace Baggage\Core\Targets\Conditions;

/** A field without a value: NULL. */
final readonly class IsEmpty implements Test
{
    public function __construct(private FieldValue $operand)
    {
    }

    public function holds(Record $record): ?bool
    {
        try {
            return ! $record->isFilled($this->operand->field->name);
        } catch (CannotTell) {
            return null;
        }
    }

    public function words(bool $not = false): string
    {
        return $this->operand->words().($not ? ' is filled' : ' is empty');
    }

    public function fields(): array
    {
        return $this->operand->fields();
    }
}
