<?php

namespace Baggage\Core\Targets\Types;

use Baggage\Core\Targets\FieldType;
use Baggage\Core\Targets\Refusal;

/** One of a list of values, compared exactly. */
final readonly class ChoiceType implements FieldType
{
    /** @param  list<string>  $values */
    public function __construct(public array $values)
    {
    }

    public function label(): string
    {
        return 'one of '.count($this->values);
    }

    public function accept(string|int|float|bool $value): string|Refusal
    {
        $text = (string) $value;
        if (in_array($text, $this->values, true)) {
            return $text;
        }
        $shown = implode(', ', array_slice($this->values, 0, 8)).(count($this->values) > 8 ? ' …' : '');

        return new Refusal('not_allowed', "Not an allowed value: $shown");
    }

    public function toArray(): array
    {
        return ['kind' => 'choice', 'values' => $this->values];
    }
}
