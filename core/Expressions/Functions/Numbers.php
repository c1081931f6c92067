<?php

namespace Baggage\Core\Expressions\Functions;

use Baggage\Core\Expressions\Described;
use Baggage\Core\Expressions\Operators;
use Baggage\Core\Expressions\RuleFailure;
use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;

final class Numbers
{
    #[
        Described(
            'decimal',
            'text, sign',
            'A number with the stated decimal sign; thousands separators, currency signs and a trailing minus are understood.',
            "decimal('1.234,50-', ',')",
            '-1234.50',
        ),
    ]
    public static function decimal(string|int|null $text, string $sign = '.'): ?string
    {
        $raw = trim((string) $text);
        if ($raw === '') {
            return null;
        }

        return self::asMost($raw, $sign) ?? self::written($raw, $sign);
    }

    /** A number as most are written: a sign before, thousands in threes; null for any other. */
    private static function asMost(string $raw, string $sign): ?string
    {
        if ($sign === '.' && preg_match('/^-?(?:\d+|\d{1,3}(?:,\d{3})+)(?:\.\d+)?$/D', $raw) === 1) {
            return str_replace(',', '', $raw);
        }
        $isComma = $sign === ',' && preg_match('/^-?(?:\d+|\d{1,3}(?:\.\d{3})+)(?:,\d+)?$/D', $raw) === 1;

        return $isComma ? strtr($raw, ['.' => '', ',' => '.']) : null;
    }

    private static function written(string $raw, string $sign): string
    {
        $number = (string) preg_replace('/[\s\x{00A0}\x{202F}\'’£€\$]|^[A-Z]{3}|[A-Z]{3}$/u', '', $raw);
        $negative = false;
        if (
            preg_match('/^\((.+)\)$/', $number, $m) === 1
            || preg_match('/^(.+)-$/', $number, $m) === 1
            || preg_match('/^-(.+)$/', $number, $m) === 1
        ) {
            $negative = true;
            $number = $m[1];
        }
        $number = ltrim($number, '+');
        $thousands = $sign === ',' ? '.' : ',';
        $pattern = '/^(?:\d+|\d{1,3}(?:'.preg_quote($thousands, '/').'\d{3})+)?(?:'.preg_quote($sign, '/').'\d*)?$/';
        if (preg_match($pattern, $number) !== 1 || preg_match('/\d/', $number) !== 1) {
            throw new RuleFailure('not_a_number', "Not a number with the decimal sign \"$sign\"", $raw);
        }
        $number = str_replace([$thousands, $sign], ['', '.'], $number);
        if ($number[0] === '.') {
            $number = "0$number";
        }

        return ($negative ? '-' : '').rtrim($number, '.');
    }

    #[Described('round', 'number, decimals', 'Rounded, halves away from zero.', 'round(9.605, 2)', '9.61')]
    public static function round(string|int|null $number, int|string $decimals = 0): ?string
    {
        return Operators::blank($number)
            ? null
            : (string) Operators::decimal($number)->toScale(max(0, min(30, (int) $decimals)), RoundingMode::HALF_UP);
    }

    #[Described('absolute', 'number', 'Without its sign.', "absolute('-12.50')", '12.50')]
    public static function absolute(string|int|null $number): ?string
    {
        return Operators::blank($number) ? null : (string) Operators::decimal($number)->abs();
    }

    #[
        Described(
            'feet',
            'text',
            'A length in feet, or feet and inches, in metres (1 ft = 0.3048 m exactly).',
            "feet('27\\' 6\"')",
            '8.382',
        ),
    ]
    public static function feet(string|int|null $text): ?string
    {
        $raw = trim((string) $text);
        if ($raw === '') {
            return null;
        }
        if (
            preg_match(
                '/^(\d+(?:\.\d+)?)\s*(?:\'|ft\.?|′)?(?:\s*(\d+(?:\.\d+)?)\s*(?:"|\'\'|in\.?|″))?$/u',
                $raw,
                $m,
            ) !== 1
        ) {
            throw new RuleFailure('not_a_length', 'Not a length in feet', $raw);
        }
        $inches = BigDecimal::of($m[1])
            ->multipliedBy(12)
            ->plus($m[2] ?? '0');

        // International yard and pound agreement, 1959: 1 in = 25.4 mm.
        return (string) $inches->multipliedBy('0.0254')->stripTrailingZeros();
    }

    #[
        Described(
            'amount',
            'text',
            'A number with either decimal sign, where it can only be read one way; "1,234" could be read two ways and rejects the row.',
            "amount('1.234,50-')",
            '-1234.50',
        ),
    ]
    public static function amount(string|int|null $text): ?string
    {
        $raw = trim((string) $text);
        if ($raw === '') {
            return null;
        }
        $point = strrpos($raw, '.');
        $comma = strrpos($raw, ',');
        $sign = match (true) {
            $point !== false && $comma !== false => $point > $comma ? '.' : ',',
            $point === false && $comma === false => '.',
            // One kind of sign: three digits behind it may be thousands, unless it stands more than once or behind more than three.
            default => self::onlySign($raw, $comma === false ? '.' : ','),
        };

        return self::decimal($raw, $sign);
    }

    private static function onlySign(string $raw, string $sign): string
    {
        $other = $sign === '.' ? ',' : '.';
        if (substr_count($raw, $sign) > 1) {
            return $other;
        }
        if (preg_match('/(?<!\d)([1-9]\d{0,2})'.preg_quote($sign, '/').'\d{3}(?!\d)/', $raw) === 1) {
            throw new RuleFailure(
                'ambiguous_amount',
                'Could be thousands or decimals: state the decimal sign with decimal()',
                $raw,
            );
        }

        return $sign;
    }

    #[Described('whole', 'number', 'Cut off behind the decimal sign.', "whole('-12.9')", '-12')]
    public static function whole(string|int|null $number): ?string
    {
        return Operators::blank($number) ? null : (string) Operators::decimal($number)->toScale(0, RoundingMode::DOWN);
    }

    #[
        Described(
            'smallest',
            'number, …',
            'The smallest of the numbers that are not blank.',
            "smallest('12', '', '7.5')",
            '7.5',
        ),
    ]
    public static function smallest(string|int|null ...$numbers): ?string
    {
        $kept = array_map(
            Operators::decimal(...),
            array_values(array_filter($numbers, fn ($n) => ! Operators::blank($n))),
        );

        return $kept === [] ? null : (string) BigDecimal::min(...$kept);
    }

    #[
        Described(
            'largest',
            'number, …',
            'The largest of the numbers that are not blank.',
            "largest('12', '', '7.5')",
            '12',
        ),
    ]
    public static function largest(string|int|null ...$numbers): ?string
    {
        $kept = array_map(
            Operators::decimal(...),
            array_values(array_filter($numbers, fn ($n) => ! Operators::blank($n))),
        );

        return $kept === [] ? null : (string) BigDecimal::max(...$kept);
    }

    #[Described('total', 'number, …', 'The sum of the numbers that are not blank.', "total('0.1', '', '0.2')", '0.3')]
    public static function total(string|int|null ...$numbers): ?string
    {
        $kept = array_map(
            Operators::decimal(...),
            array_values(array_filter($numbers, fn ($n) => ! Operators::blank($n))),
        );

        return $kept === [] ? null : (string) BigDecimal::sum(...$kept);
    }
}
