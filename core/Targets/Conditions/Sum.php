<?php

namespace Baggage\Core\Targets\Conditions;

use Brick\Math\BigDecimal;

/** Two numbers added, one taken from the other, or multiplied. */
final readonly class Sum implements Operand
{
    public function __construct(private string $sign, private Operand $left, private Operand $right)
    {
    }

    public function value(Record $record): ?string
    {
        $left = $this->left->value($record);
        $right = $this->right->value($record);
        if ($left === null || $right === null) {
            return null;
        }
        $a = BigDecimal::of($left);

        return (string) match ($this->sign) {
            '+' => $a->plus($right),
            '-' => $a->minus($right),
            default => $a->multipliedBy($right),
        };
    }

    public function words(): string
    {
        $words = fn (Operand $o) => $o instanceof self && $this->sign !== '+' ? "({$o->words()})" : $o->words();

        return "{$words($this->left)} $this->sign {$words($this->right)}";
    }

    public function kind(): Kind
    {
        return Kind::Number;
    }

    public function fields(): array
    {
        return array_values(array_unique([...$this->left->fields(), ...$this->right->fields()]));
    }
}
