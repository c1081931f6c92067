<?php

namespace Baggage\Core\Expressions\Functions;

use Baggage\Core\Expressions\Described;
use Baggage\Core\Expressions\Operators;
use Baggage\Core\Expressions\RuleFailure;
use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;

final class Numbers
{
    #[Described('decimal', 'text, sign', 'A number with the stated decimal sign; thousands separators, currency signs and a trailing minus are understood.', "decimal('1.234,50-', ',')", '-1234.50')]
    public static function decimal(string|int|null $text, string $sign = '.'): ?string
    {
        $raw = trim((string) $text);
        if ($raw === '') {
            return null;
        }
        $number = (string) preg_replace('/[\s\x{00A0}\x{202F}\'’£€\$]|^[A-Z]{3}|[A-Z]{3}$/u', '', $raw);
        $negative = false;
        if (preg_match('/^\((.+)\)$/', $number, $m) === 1 || preg_match('/^(.+)-$/', $number, $m) === 1 || preg_match('/^-(.+)$/', $number, $m) === 1) {
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
        return Operators::blank($number) ? null : (string) Operators::decimal($number)->toScale(max(0, min(30, (int) $decimals)), RoundingMode::HALF_UP);
    }

    #[Described('absolute', 'number', 'Without its sign.', "absolute('-12.50')", '12.50')]
    public static function absolute(string|int|null $number): ?string
    {
        return Operators::blank($number) ? null : (string) Operators::decimal($number)->abs();
    }

    #[Described('feet', 'text', 'A length in feet, or feet and inches, in metres (1 ft = 0.3048 m exactly).', "feet('27\\' 6\"')", '8.382')]
    public static function feet(string|int|null $text): ?string
    {
        $raw = trim((string) $text);
        if ($raw === '') {
            return null;
        }
        if (preg_match('/^(\d+(?:\.\d+)?)\s*(?:\'|ft\.?|′)?(?:\s*(\d+(?:\.\d+)?)\s*(?:"|\'\'|in\.?|″))?$/u', $raw, $m) !== 1) {
            throw new RuleFailure('not_a_length', 'Not a length in feet', $raw);
        }
        $inches = BigDecimal::of($m[1])->multipliedBy(12)->plus($m[2] ?? '0');

        // International yard and pound agreement, 1959: 1 in = 25.4 mm.
        return (string) $inches->multipliedBy('0.0254')->stripTrailingZeros();
    }
}
