<?php

namespace Baggage\Core\Targets\Types;

use Baggage\Core\Targets\FieldType;
use Baggage\Core\Targets\Refusal;
use Brick\Math\BigInteger;

/** A whole number between two bounds, kept as text so that 64 unsigned bits fit. */
final readonly class IntegerType implements FieldType
{
    public function __construct(public string $min, public string $max)
    {
    }

    public function label(): string
    {
        return 'whole number';
    }

    public function accept(string|int|float|bool $value): string|Refusal
    {
        $text = is_bool($value) ? ($value ? '1' : '0') : trim((string) $value);
        if (preg_match('/^([+-]?\d+)(?:\.0+)?$/', $text, $m) !== 1) {
            return new Refusal('not_a_number', 'Not a whole number');
        }
        $number = BigInteger::of($m[1]);
        if ($number->isLessThan($this->min) || $number->isGreaterThan($this->max)) {
            return new Refusal('out_of_range', "Number out of range: $this->min to $this->max fit");
        }

        return (string) $number;
    }

    public function toArray(): array
    {
        return ['kind' => 'integer', 'min' => $this->min, 'max' => $this->max];
    }
}
