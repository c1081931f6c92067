<?php

namespace Baggage\Core\Expressions;

use Baggage\Core\Expressions\Functions\Text;
use Baggage\Core\Reading\Blank;
use Brick\Math\BigDecimal;
use Brick\Math\Exception\MathException;
use Brick\Math\Exception\RoundingNecessaryException;
use Brick\Math\RoundingMode;

/** What the operators of a rule mean: text stays text, arithmetic is exact, blank and none are alike. */
final class Operators
{
    /** Digits after the point when a division does not come out even. */
    private const DIVISION_SCALE = 20;

    /** Digits a number may have. */
    private const DIGITS = 1_000;

    public static function text(mixed $value): string
    {
        return match (true) {
            $value === null => '',
            is_bool($value) => $value ? '1' : '0',
            is_scalar($value), $value instanceof \Stringable => (string) $value,
            default => throw new RuleFailure('not_text', 'A list cannot be used as text'),
        };
    }

    public static function join(mixed $a, mixed $b): string
    {
        $text = self::text($a).self::text($b);

        return strlen($text) <= Text::LONGEST
            ? $text
            : throw new RuleFailure(
                'text_too_long',
                'The rule makes a text of more than a million bytes',
                substr($text, 0, 40),
            );
    }

    public static function arithmetic(string $operator, mixed $a, mixed $b): ?string
    {
        if (self::blank($a) || self::blank($b)) {
            return null;
        }
        $x = self::decimal($a);
        $y = self::decimal($b);
        if ($operator !== '/' && $operator !== '%') {
            return (string) match ($operator) {
                '+' => $x->plus($y),
                '-' => $x->minus($y),
                default => $x->multipliedBy($y),
            };
        }
        if ($y->isZero()) {
            throw new RuleFailure(
                'division_by_zero',
                'Division by zero',
                self::text($a)." $operator ".self::text($b),
            );
        }
        if ($operator === '%') {
            return (string) $x->remainder($y);
        }
        try {
            return (string) $x->dividedBy($y, self::DIVISION_SCALE, RoundingMode::UNNECESSARY)->stripTrailingZeros();
        } catch (RoundingNecessaryException) {
            return (string) $x->dividedBy($y, self::DIVISION_SCALE, RoundingMode::HALF_UP);
        }
    }

    public static function negate(mixed $a): ?string
    {
        return self::blank($a) ? null : (string) self::decimal($a)->negated();
    }

    public static function equal(mixed $a, mixed $b): bool
    {
        if (is_int($a) || is_float($a) || is_int($b) || is_float($b)) {
            return is_numeric($a) && is_numeric($b) && self::decimal($a)->isEqualTo(self::decimal($b));
        }
        if (is_bool($a) || is_bool($b)) {
            return self::truth($a) === self::truth($b);
        }

        // '007' and '7' are two codes.
        return self::text($a) === self::text($b);
    }

    /** -1, 0 or 1; null when one side is blank, which compares as neither. */
    public static function compare(mixed $a, mixed $b): ?int
    {
        if (self::blank($a) || self::blank($b)) {
            return null;
        }
        if (is_numeric($a) && is_numeric($b)) {
            return self::decimal($a)->compareTo(self::decimal($b));
        }

        return strcmp(self::text($a), self::text($b)) <=> 0;
    }

    public static function less(mixed $a, mixed $b): bool
    {
        return self::compare($a, $b) === -1;
    }

    public static function lessOrEqual(mixed $a, mixed $b): bool
    {
        $c = self::compare($a, $b);

        return $c === -1 || $c === 0;
    }

    /** @param  array<mixed>  $list */
    public static function in(mixed $a, array $list): bool
    {
        foreach ($list as $item) {
            if (self::equal($a, $item)) {
                return true;
            }
        }

        return false;
    }

    public static function matches(mixed $a, mixed $pattern): bool
    {
        $found = @preg_match(self::text($pattern), self::text($a));
        if ($found === false) {
            throw new RuleFailure(
                'bad_pattern',
                'The pattern cannot be applied: '.preg_last_error_msg(),
                self::text($a),
            );
        }

        return $found === 1;
    }

    public static function contains(mixed $a, mixed $b): bool
    {
        return str_contains(self::text($a), self::text($b));
    }

    public static function startsWith(mixed $a, mixed $b): bool
    {
        return str_starts_with(self::text($a), self::text($b));
    }

    public static function endsWith(mixed $a, mixed $b): bool
    {
        return str_ends_with(self::text($a), self::text($b));
    }

    public static function truth(mixed $a): bool
    {
        return is_bool($a) ? $a : ! self::blank($a) && self::text($a) !== '0' && strtolower(self::text($a)) !== 'false';
    }

    public static function blank(mixed $a): bool
    {
        return $a === null || (is_string($a) && Blank::is($a));
    }

    public static function decimal(mixed $a): BigDecimal
    {
        $text = is_bool($a) ? (string) (int) $a : trim(self::text($a));
        // "1E999999999" would be written out with a thousand million digits.
        if (strlen($text) > self::DIGITS || preg_match('/[eE][+-]?0*\d{4}/', $text) === 1) {
            throw new RuleFailure('not_a_number', 'A number of more than a thousand digits', mb_strcut($text, 0, 60));
        }
        try {
            return BigDecimal::of($text);
        } catch (MathException) {
            throw new RuleFailure('not_a_number', 'Not a number', self::text($a));
        }
    }
}
