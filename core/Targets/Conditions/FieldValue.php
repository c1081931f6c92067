<?php

namespace Baggage\Core\Targets\Conditions;

use Baggage\Core\Targets\Field;

/** What a field holds. */
final readonly class FieldValue implements Operand
{
    public function __construct(public Field $field)
    {
    }

    public function value(Record $record): ?string
    {
        return $record->value($this->field->name);
    }

    public function words(): string
    {
        return $this->field->name;
    }

    public function kind(): Kind
    {
        return match ((string) $this->field->type->toArray()['kind']) {
            'integer', 'decimal', 'boolean' => Kind::Number,
            'date', 'datetime' => Kind::Date,
            default => Kind::Text,
        };
    }

    public function fields(): array
    {
        return [$this->field->name];
    }
}
