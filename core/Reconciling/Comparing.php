<?php

namespace Baggage\Core\Reconciling;

use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Types\BooleanType;
use Baggage\Core\Targets\Types\DateType;
use Baggage\Core\Targets\Types\DecimalType;
use Baggage\Core\Targets\Types\IntegerType;
use Baggage\Core\Targets\Types\TextType;
use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Normalizer;

/**
 * Whether a record says what was sent, under the comparison the type of its field needs, and if not, in what way it does not.
 *
 * Numbers are compared by what they are worth, dates by the moment, truth by 0 and 1, text sign by sign but for blanks at its end, which
 * collations that pad (SQL:2016, 8.2 comparison predicate, PAD SPACE) and fields of fixed length do not tell apart.
 */
final class Comparing
{
    private const MOMENT = '/^(\d{4})-(\d{2})-(\d{2})(?:[T ](\d{2}):(\d{2})(?::(\d{2})(?:\.0+)?)?)?$/D';

    /**
     * @param  string|null  $sent  in the canonical form of the field's type
     * @param  string|null  $is  what the record says
     */
    public static function isSame(Field $field, ?string $sent, ?string $is): bool
    {
        if ($sent === $is) {
            return true;
        }
        if ($sent === null || $is === null) {
            return false;
        }

        return match (true) {
            $field->refers !== null => false,
            $field->type instanceof DecimalType, $field->type instanceof IntegerType,
            $field->type instanceof BooleanType => ExactSum::isNumber($sent) && ExactSum::isNumber($is)
                && BigDecimal::of($sent)->isEqualTo($is),
            $field->type instanceof DateType => self::moment($sent) !== null && self::moment($sent) === self::moment($is),
            $field->type instanceof TextType => rtrim($sent, ' ') === rtrim($is, ' '),
            default => false,
        };
    }

    /**
     * In a few words, the same for all values it happened to alike.
     *
     * @param  string|null  $sent  as isSame() takes it
     */
    public static function difference(Field $field, ?string $sent, ?string $is): string
    {
        return match (true) {
            $is === null => 'left empty',
            $sent === null => 'filled in',
            $field->refers !== null => 'another record',
            $field->type instanceof DecimalType, $field->type instanceof IntegerType => self::number($sent, $is),
            $field->type instanceof DateType => self::date($sent, $is),
            $field->type instanceof TextType => self::text($sent, $is),
            default => 'another value',
        };
    }

    private static function number(string $sent, string $is): string
    {
        if (! ExactSum::isNumber($sent) || ! ExactSum::isNumber($is)) {
            return 'no number';
        }
        [$a, $b] = [BigDecimal::of($sent), BigDecimal::of($is)];
        // The target may show noughts behind what it kept: what loses least says how it was done.
        for ($scale = min($a->getScale() - 1, $b->getScale()); $scale >= 0; $scale--) {
            if ($a->toScale($scale, RoundingMode::HALF_UP)->isEqualTo($b) || $a->toScale($scale, RoundingMode::HALF_EVEN)->isEqualTo($b)) {
                return 'rounded';
            }
            if ($a->toScale($scale, RoundingMode::DOWN)->isEqualTo($b)) {
                return 'decimals cut off';
            }
        }
        if ($a->negated()->isEqualTo($b)) {
            return 'sign turned';
        }
        foreach ($a->isZero() || $b->isZero() ? [] : range(1, 6) as $places) {
            if ($a->withPointMovedRight($places)->isEqualTo($b) || $a->withPointMovedLeft($places)->isEqualTo($b)) {
                return 'decimal sign moved';
            }
        }

        return 'another number';
    }

    private static function date(string $sent, string $is): string
    {
        if (str_starts_with($is, '0000-')) {
            return 'no date';
        }
        [$a, $b] = [self::moment($sent), self::moment($is)];
        if ($a === null || $b === null) {
            return 'no date';
        }
        if (substr($a, 0, 10) === substr($b, 0, 10)) {
            return substr($b, 11) === '00:00:00' ? 'time of day lost' : 'another time of day';
        }
        [$from, $to] = [new \DateTimeImmutable("$a UTC"), new \DateTimeImmutable("$b UTC")];
        $seconds = $to->getTimestamp() - $from->getTimestamp();
        [$day, $month, $year] = [substr($a, 8, 2), substr($a, 5, 2), substr($a, 0, 4)];

        return match (true) {
            $seconds === 86_400 => 'a day later',
            $seconds === -86_400 => 'a day earlier',
            abs($seconds) <= 50_400 && $seconds % 900 === 0 => 'shifted by hours',
            substr($b, 0, 10) === "$year-$day-$month" => 'day and month exchanged',
            substr($a, 4) === substr($b, 4) && (int) $year % 100 === (int) substr($b, 0, 4) % 100 => 'another century',
            substr($a, 4) === substr($b, 4) => 'another year',
            default => 'another date',
        };
    }

    private static function moment(string $value): ?string
    {
        return preg_match(self::MOMENT, $value, $m) === 1
            ? "$m[1]-$m[2]-$m[3] ".($m[4] ?? '00').':'.($m[5] ?? '00').':'.($m[6] ?? '00')
            : null;
    }

    private static function text(string $sent, string $is): string
    {
        $squeezed = fn (string $v) => trim((string) preg_replace('/\s+/u', ' ', $v));
        $composed = fn (string $v) => (string) (Normalizer::normalize($v, Normalizer::FORM_C) ?: $v);
        $bare = fn (string $v) => (string) preg_replace('/\p{M}+/u', '', (string) (Normalizer::normalize($v, Normalizer::FORM_D) ?: $v));

        return match (true) {
            $is === '' => 'left empty',
            str_starts_with($sent, $is) => 'cut to '.mb_strlen($is).' characters',
            $squeezed($sent) === $squeezed($is) => 'other blanks',
            $composed($sent) === $composed($is) => 'signs written another way',
            mb_strtolower($sent) === mb_strtolower($is) => 'other capitals',
            self::isLost($sent, $is) => 'signs lost',
            self::isMisread($sent, $is) => 'signs misread',
            mb_strtolower($bare($sent)) === mb_strtolower($bare($is)) => 'accents lost or added',
            str_starts_with($is, $sent) => 'something added at the end',
            default => 'another text',
        };
    }

    /** Whether the same stands there with question marks, or the sign for what cannot be shown, in the place of other signs. */
    private static function isLost(string $sent, string $is): bool
    {
        if (preg_match('/[?\x{FFFD}]/u', $is) !== 1 || mb_strlen($sent) !== mb_strlen($is)) {
            return false;
        }
        foreach (array_map(null, mb_str_split($sent), mb_str_split($is)) as [$a, $b]) {
            if ($a !== $b && $b !== '?' && $b !== "\u{FFFD}") {
                return false;
            }
        }

        return true;
    }

    /** Whether UTF-8 was taken for Windows-1252, or the other way. */
    private static function isMisread(string $sent, string $is): bool
    {
        $misread = fn (string $v) => @mb_convert_encoding($v, 'UTF-8', 'Windows-1252');

        return $misread($sent) === $is || $misread($is) === $sent;
    }
}
