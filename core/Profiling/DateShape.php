<?php

namespace Baggage\Core\Profiling;

/** In which of the usual forms a text can be read as a date, and what speaks against it. */
final class DateShape
{
    /** Forms as the rule function date() takes them, each a bit by its place. */
    public const FORMATS = [
        'Y-m-d',
        'Y/m/d',
        'Y.m.d',
        'd/m/Y',
        'm/d/Y',
        'd.m.Y',
        'd-m-Y',
        'm-d-Y',
        'd/m/y',
        'm/d/y',
        'd.m.y',
        'd-m-y',
        'm-d-y',
        'Ymd',
        'dmY',
        'dmy',
        'ymd',
        'd-M-Y',
        'd-M-y',
        'd M Y',
    ];

    private const MONTHS = 'jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec';

    private const SENTINELS = [
        '1900-01-01',
        '1899-12-30',
        '1899-12-31',
        '1901-01-01',
        '1970-01-01',
        '9999-12-31',
        '2099-12-31',
        '1753-01-01',
        '0001-01-01',
        '2999-12-31',
        '1904-01-01',
    ];

    /** Dates remembered at most: a century has 36,525. */
    private const REMEMBERED = 60_000;

    /** @var array<array-key, array{int, list<int>, array<string, int>}> text → marks, places of the formats that fit, see sortables() */
    private static array $known = [];

    /** @return array<string, int> order of day, month and year ("d", "m", "y") → the date as a number that sorts */
    public static function sortables(string $text): array
    {
        return self::known(trim($text))[2];
    }

    /** @return list<int> places in FORMATS of those that fit */
    public static function places(string $text): array
    {
        return self::known(trim($text))[1];
    }

    /** @return int marks of Mark that concern dates */
    public static function marks(string $text): int
    {
        return self::known($text)[0];
    }

    /** Whether six or eight digits are no date at first sight: no month in the middle of six, at neither end of eight a year. */
    public static function cannotBe(string $digits): bool
    {
        if (! isset($digits[6])) {
            return substr($digits, 2, 2) > '12';
        }
        [$first, $last] = [(int) substr($digits, 0, 4), (int) substr($digits, 4)];

        return ($first < 1800 || $first >= 2200) && ($last < 1800 || $last >= 2200) && $digits !== '00000000';
    }

    /** @return array{int, list<int>, array<string, int>} */
    private static function known(string $text): array
    {
        if (isset(self::$known[$text])) {
            return self::$known[$text];
        }
        $marks = ctype_digit($text) ? self::digits($text) : self::look($text);
        if (($marks & Mark::NOT_DATE) !== 0 && ($marks & Mark::IMPOSSIBLE_DATE) === 0) {
            return [$marks, [], []];
        }
        $places = $sortables = [];
        for ($fits = self::formats($text), $at = 0; $fits !== 0; $fits >>= 1, $at++) {
            if (($fits & 1) !== 0) {
                $places[] = $at;
            }
        }
        foreach (['d', 'm', 'y'] as $order) {
            $key = self::sortable($text, $order);
            if ($key !== null) {
                $sortables[$order] = $key;
            }
        }
        if (count(self::$known) >= self::REMEMBERED) {
            self::$known = [];
        }

        return self::$known[$text] = [$marks, $places, $sortables];
    }

    /** As look(), of digits alone: numbers of six and eight are in no end of columns that have nothing to do with dates. */
    private static function digits(string $text): int
    {
        $length = strlen($text);
        if ($length !== 6 && $length !== 8) {
            return Mark::NOT_DATE;
        }
        if ((int) $text === 0) {
            return Mark::SENTINEL_DATE;
        }
        if (($length === 8 ? self::eightDigits($text) : self::sixDigits($text)) === 0) {
            return Mark::NOT_DATE;
        }

        return $length === 8 && in_array(self::iso($text), self::SENTINELS, true) ? Mark::SENTINEL_DATE : 0;
    }

    /** @return int marks of Mark that concern dates */
    private static function look(string $text): int
    {
        $length = strlen($text);
        if ($length < 6 || $length > 23) {
            return Mark::NOT_DATE;
        }
        if (preg_match('~^0{1,4}([-/. ]?)0{1,2}\1(?:0{2}|0{4})$~', $text) === 1) {
            return Mark::SENTINEL_DATE;
        }
        $formats = self::formats($text, $impossible);
        if ($formats === 0) {
            return $impossible ? Mark::NOT_DATE | Mark::IMPOSSIBLE_DATE : Mark::NOT_DATE;
        }
        $marks = 0;
        if (
            (preg_match('~^(\d{1,4})[-/.](\d{1,2})[-/.](\d{2})(?!\d)~', $text, $m) === 1 && strlen($m[1]) <= 2)
            || preg_match('~^\d{1,2}-[a-z]{3}-\d{2}$~i', $text) === 1
        ) {
            $marks |= Mark::TWO_DIGIT_YEAR;
        }
        if (in_array(self::iso($text), self::SENTINELS, true)) {
            $marks |= Mark::SENTINEL_DATE;
        }

        return $marks;
    }

    /**
     * @param-out bool $impossible set when it has the shape of a date that the calendar does not have
     *
     * @return int bits of FORMATS
     */
    public static function formats(string $text, ?bool &$impossible = null): int
    {
        $impossible = false;
        $date = preg_match('~^(.+?)[ T]\d{1,2}:\d{2}(?::\d{2}(?:\.\d+)?)?(?:Z|[+-]\d{2}:?\d{2})?$~', $text, $m) === 1
            ? $m[1]
            : $text;
        if (preg_match('~^\d{6}(?:\d\d)?$~', $date) === 1) {
            return strlen($date) === 8 ? self::eightDigits($date) : self::sixDigits($date);
        }
        if (preg_match('~^(\d{4})([-/.])(\d{1,2})\2(\d{1,2})$~', $date, $m) === 1) {
            $fits = checkdate((int) $m[3], (int) $m[4], (int) $m[1]) ? 1 << ['-' => 0, '/' => 1, '.' => 2][$m[2]] : 0;
        } elseif (preg_match('~^(\d{1,2})([-/.])(\d{1,2})\2(\d{4}|\d{2})$~', $date, $m) === 1) {
            $fits = self::yearLast((int) $m[1], (int) $m[3], $m[4], $m[2]);
        } elseif (preg_match('~^(\d{1,2})([- ])('.self::MONTHS.')[a-z]*\2(\d{4}|\d{2})$~i', $date, $m) === 1) {
            $bit = $m[2] === ' ' ? 19 : (strlen($m[4]) === 4 ? 17 : 18);
            $fits = (int) $m[1] >= 1 && (int) $m[1] <= 31 ? 1 << $bit : 0;
        } else {
            return 0;
        }
        $impossible = $fits === 0;

        return $fits;
    }

    /** Day or month first, for both where the calendar has both; with points nobody writes the month first. */
    private static function yearLast(int $one, int $two, string $written, string $mark): int
    {
        $long = strlen($written) === 4;
        $year = $long ? (int) $written : 2000 + (int) $written;
        $shape = $mark.($long ? 'Y' : 'y');
        $fits = 0;
        if (checkdate($two, $one, $year)) {
            $fits = 1 << ['/Y' => 3, '.Y' => 5, '-Y' => 6, '/y' => 8, '.y' => 10, '-y' => 11][$shape];
        }
        if ($mark !== '.' && checkdate($one, $two, $year)) {
            $fits |= 1 << ['/Y' => 4, '-Y' => 7, '/y' => 9, '-y' => 12][$shape];
        }

        return $fits;
    }

    /** Year first or last. Any eight digits could be a date: only the years somebody keeps records of count. */
    private static function eightDigits(string $date): int
    {
        $year = (int) substr($date, 0, 4);
        $first = $year >= 1800 && $year < 2200 && checkdate((int) substr($date, 4, 2), (int) substr($date, 6), $year);
        $year = (int) substr($date, 4);
        $last = $year >= 1800 && $year < 2200 && checkdate((int) substr($date, 2, 2), (int) substr($date, 0, 2), $year);

        return ($first ? 1 << 13 : 0) | ($last ? 1 << 14 : 0);
    }

    private static function sixDigits(string $date): int
    {
        $two = (int) substr($date, 2, 2);
        if ($two === 0 || $two > 12) {
            return 0;
        }
        [$one, $three] = [(int) substr($date, 0, 2), (int) substr($date, 4)];

        return (checkdate($two, $one, 2000 + $three) ? 1 << 15 : 0) | (checkdate($two, $three, 2000 + $one) ? 1 << 16 : 0);
    }

    /**
     * The date as a number that sorts, read in the order the format states. Two-digit years below 30 are 20xx.
     *
     * @param  string  $order  first letter of the format: Y, y, d or m
     */
    private static function sortable(string $text, string $order): ?int
    {
        if (preg_match('~^(\d{8}|\d{6})$~', $text) === 1) {
            $long = strlen($text) === 8;
            $parts = strtolower($order) === 'y'
                ? [substr($text, 0, $long ? 4 : 2), substr($text, -4, 2), substr($text, -2)]
                : [substr($text, 0, 2), substr($text, 2, 2), substr($text, 4)];
        } elseif (preg_match('~^(\d{1,4})[-/. ](\d{1,2})[-/. ](\d{1,4})~', $text, $m) === 1) {
            $parts = array_slice($m, 1);
        } else {
            return null;
        }
        [$y, $m, $d] = match (strtolower($order)) {
            'y' => $parts,
            'm' => [$parts[2], $parts[0], $parts[1]],
            default => [$parts[2], $parts[1], $parts[0]],
        };
        $year = (int) $y;
        if (strlen($y) <= 2) {
            $year += $year < 30 ? 2000 : 1900;
        }

        return checkdate((int) $m, (int) $d, $year) ? $year * 10_000 + (int) $m * 100 + (int) $d : null;
    }

    private static function iso(string $text): string
    {
        if (preg_match('~^(\d{4})[-/.]?(\d{2})[-/.]?(\d{2})~', $text, $m) === 1) {
            return "$m[1]-$m[2]-$m[3]";
        }

        return preg_match('~^(\d{2})[-/.](\d{2})[-/.](\d{4})~', $text, $m) === 1 ? "$m[3]-$m[2]-$m[1]" : '';
    }
}
