<?php

namespace Baggage\Core\Targets\Conditions;

use Baggage\Core\Targets\Fold;
use Brick\Math\BigDecimal;
use Brick\Math\Exception\MathException;

/** Two values compared: =, <>, <, <=, >, >=. Texts only for being the same; how they sort is the target's own. */
final readonly class Comparison implements Test
{
    private const OPPOSITE = ['=' => '<>', '<>' => '=', '<' => '>=', '>=' => '<', '>' => '<=', '<=' => '>'];

    public function __construct(private string $sign, private Operand $left, private Operand $right)
    {
    }

    public function holds(Record $record): ?bool
    {
        try {
            $order = self::order($this->left->value($record), $this->right->value($record), self::kind($this->left, $this->right));
        } catch (CannotTell) {
            return null;
        }
        if ($order === null) {
            return null;
        }

        return match ($this->sign) {
            '=' => $order === 0,
            '<>' => $order !== 0,
            '<' => $order < 0,
            '<=' => $order <= 0,
            '>' => $order > 0,
            default => $order >= 0,
        };
    }

    /** @return int|null below, 0 or above; null where one is missing, or where only the target's collation can tell */
    public static function order(?string $left, ?string $right, Kind $kind): ?int
    {
        if ($left === null || $right === null) {
            return null;
        }
        if ($kind === Kind::Text) {
            return match (true) {
                $left === $right => 0,
                Fold::of($left) === Fold::of($right) => null,
                default => 1,
            };
        }
        if ($kind === Kind::Date) {
            // A date alone is its midnight.
            return strcmp(str_pad($left, 19, ' 00:00:00'), str_pad($right, 19, ' 00:00:00'));
        }
        try {
            return BigDecimal::of($left)->compareTo($right);
        } catch (MathException) {
            return null;
        }
    }

    /** Numbers and dates beside a text are compared as such. */
    public static function kind(Operand $left, Operand $right): Kind
    {
        return $left->kind() === Kind::Text ? $right->kind() : $left->kind();
    }

    public function words(bool $not = false): string
    {
        $sign = $not ? self::OPPOSITE[$this->sign] : $this->sign;
        $isDate = self::kind($this->left, $this->right) === Kind::Date;
        $how = match ($sign) {
            '=' => '',
            '<>' => 'not ',
            '<' => $isDate ? 'before ' : 'less than ',
            '<=' => $isDate ? 'not after ' : 'at most ',
            '>' => $isDate ? 'after ' : 'more than ',
            default => $isDate ? 'not before ' : 'at least ',
        };
        if ($this->left instanceof Measure && $this->left->isLength()) {
            return "{$this->left->of()->words()} has $how{$this->right->words()} {$this->left->unit()}";
        }

        return "{$this->left->words()} is $how{$this->right->words()}";
    }

    public function fields(): array
    {
        return array_values(array_unique([...$this->left->fields(), ...$this->right->fields()]));
    }
}
