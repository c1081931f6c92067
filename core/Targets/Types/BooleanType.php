<?php

namespace Baggage\Core\Targets\Types;

use Baggage\Core\Targets\FieldType;
use Baggage\Core\Targets\Refusal;

/** Yes or no, stored as 1 or 0. */
final readonly class BooleanType implements FieldType
{
    public function label(): string
    {
        return 'yes or no';
    }

    public function accept(string|int|float|bool $value): string|Refusal
    {
        $text = is_string($value) ? strtolower(trim($value)) : $value;

        return match (true) {
            $text === true, $text === 1, $text === '1', $text === 'true' => '1',
            $text === false, $text === 0, $text === '0', $text === 'false' => '0',
            default => new Refusal('not_a_boolean', 'Not yes or no: 1, 0, true or false fit'),
        };
    }

    public function toArray(): array
    {
        return ['kind' => 'boolean'];
    }
}
