<?php

namespace Baggage\Core\Targets\Types;

use Baggage\Core\Targets\FieldType;
use Baggage\Core\Targets\Refusal;

/** An exact decimal; decimals that do not fit are refused, never rounded silently. */
final readonly class DecimalType implements FieldType
{
    public function __construct(public int $precision, public int $scale)
    {
    }

    public function label(): string
    {
        return "decimal $this->precision,$this->scale";
    }

    public function accept(string|int|float|bool $value): string|Refusal
    {
        $text = trim((string) $value);
        if (preg_match('/^([+-]?)0*(\d*)(?:\.(\d*?)0*)?$/', $text, $m) !== 1 || strpbrk($text, '0123456789') === false) {
            return new Refusal('not_a_number', 'Not a number with a decimal point');
        }
        $fraction = $m[3] ?? '';
        if (strlen($fraction) > $this->scale) {
            return new Refusal(
                'too_many_decimals',
                "Too many decimals: the field keeps $this->scale. Round it in the rule if that is right",
            );
        }
        if (strlen($m[2]) > $this->precision - $this->scale) {
            return new Refusal(
                'out_of_range',
                'Number too large: '.($this->precision - $this->scale).' digits fit before the point',
            );
        }
        $digits = $m[2] === '' ? '0' : $m[2];
        $number = $digits.($this->scale > 0 ? '.'.str_pad($fraction, $this->scale, '0') : '');

        return $m[1] === '-' && trim($number, '0.') !== '' ? '-'.$number : $number;
    }

    public function toArray(): array
    {
        return ['kind' => 'decimal', 'precision' => $this->precision, 'scale' => $this->scale];
    }
}
