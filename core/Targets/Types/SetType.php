<?php

namespace Baggage\Core\Targets\Types;

use Baggage\Core\Targets\FieldType;
use Baggage\Core\Targets\Refusal;

/** Any of a list of values, with commas between them; kept in the order of the list, as MariaDB keeps a SET. */
final readonly class SetType implements FieldType
{
    /** @param  list<string>  $values */
    public function __construct(public array $values)
    {
    }

    public function label(): string
    {
        return 'some of '.count($this->values);
    }

    public function accept(string|int|float|bool $value): string|Refusal
    {
        $given = array_map(trim(...), explode(',', (string) $value));
        $unknown = array_diff($given, $this->values);
        if ($unknown !== []) {
            $shown = implode(', ', array_slice($this->values, 0, 8)).(count($this->values) > 8 ? ' …' : '');

            return new Refusal('not_allowed', 'Not an allowed value, "'.reset($unknown)."\": some of $shown, with commas between them");
        }

        return implode(',', array_values(array_intersect($this->values, $given)));
    }

    public function toArray(): array
    {
        return ['kind' => 'set', 'values' => $this->values];
    }
}
