<?php

namespace Baggage\Core\Expressions\Functions;

use Baggage\Core\Expressions\Described;
use Baggage\Core\Expressions\Operators;
use Baggage\Core\Expressions\RuleFailure;
use Baggage\Core\Reading\Workbook\SerialDate;

final class Dates
{
    private const MONTHS = [
        'jan' => 1,
        'feb' => 2,
        'mar' => 3,
        'apr' => 4,
        'may' => 5,
        'jun' => 6,
        'jul' => 7,
        'aug' => 8,
        'sep' => 9,
        'oct' => 10,
        'nov' => 11,
        'dec' => 12,
    ];

    /** @var array<string, array{string, list<string>}> */
    private static array $patterns = [];

    #[
        Described(
            'date',
            'text, format, …',
            'A date in one of the formats, tried in turn: d day, m month, M month by name, y year of two digits, '
                .'Y of four; H, i, s a time that is dropped.',
            "date('04/07/88', 'd/m/y')",
            '1988-07-04',
        ),
    ]
    public static function date(?string $text, string $format, string ...$others): ?string
    {
        $raw = trim((string) $text);
        if ($raw === '') {
            return null;
        }
        foreach ([$format, ...$others] as $one) {
            $date = self::read($raw, $one);
            if ($date !== null) {
                return $date;
            }
        }
        throw new RuleFailure('not_a_date', 'Not a date in the form '.implode(' or ', [$format, ...$others]), $raw);
    }

    #[Described('year', 'date', 'The year of a date.', "year('1988-07-04')", '1988')]
    public static function year(?string $date): ?string
    {
        return $date === null || $date === '' ? null : substr($date, 0, 4);
    }

    private static function read(string $text, string $format, ?int $window = null): ?string
    {
        [$pattern, $order] = self::$patterns[$format] ??= self::pattern($format);
        if (preg_match($pattern, $text, $m) !== 1) {
            return null;
        }
        $part = ['d' => 1, 'm' => 1, 'Y' => 0];
        foreach ($order as $i => $letter) {
            $found = $m[$i + 1];
            if ($letter === 'M') {
                $month = self::MONTHS[strtolower(substr($found, 0, 3))] ?? 0;
                $part['m'] = $month;
            } elseif ($letter === 'y') {
                // POSIX.1-2017, strptime %y: 69-99 are 1969-1999, 00-68 are 2000-2068.
                $part['Y'] = $window === null
                    ? (int) $found + ((int) $found >= 69 ? 1900 : 2000)
                    : $window + (((((int) $found - $window) % 100) + 100) % 100);
            } else {
                $part[$letter] = (int) $found;
            }
        }

        return checkdate((int) $part['m'], (int) $part['d'], (int) $part['Y'])
            ? sprintf('%04d-%02d-%02d', $part['Y'], $part['m'], $part['d'])
            : null;
    }

    /** The first letter of a format that stands for no part of a date; T and Z are the signs of ISO 8601. */
    public static function unknownLetter(string $format): ?string
    {
        return preg_match('/[^dmyYHisMTZ\W_0-9]/u', $format, $m) === 1 ? $m[0] : null;
    }

    /** @return array{string, list<string>} */
    private static function pattern(string $format): array
    {
        $order = [];
        $pattern = '';
        $separated = preg_match('/[dmyYHis][^dmyYHisM]/', $format) === 1;
        foreach (mb_str_split($format) as $letter) {
            $loose = $separated ? '\d{1,2}' : '\d{2}';
            $pattern .= match ($letter) {
                'd', 'm', 'H', 'i', 's' => "($loose)",
                'y' => '(\d{2})',
                'Y' => '(\d{4})',
                'M' => '([A-Za-z]{3,9})',
                default => preg_quote($letter, '/'),
            };
            if (str_contains('dmyYHisM', $letter)) {
                $order[] = $letter;
            }
        }

        return ["/^$pattern$/u", $order];
    }

    #[
        Described(
            'date_from',
            'text, first year, format, …',
            'As date(), with years of two digits in the hundred years that begin with the stated one.',
            "date_from('04/07/28', 1925, 'd/m/y')",
            '1928-07-04',
        ),
    ]
    public static function dateFrom(?string $text, string|int $firstYear, string $format, string ...$others): ?string
    {
        $raw = trim((string) $text);
        if ($raw === '') {
            return null;
        }
        foreach ([$format, ...$others] as $one) {
            $date = self::read($raw, $one, (int) $firstYear);
            if ($date !== null) {
                return $date;
            }
        }
        throw new RuleFailure('not_a_date', 'Not a date in the form '.implode(' or ', [$format, ...$others]), $raw);
    }

    #[
        Described(
            'date_time',
            'text, format, …',
            'A date with its time of day, in one of the formats, tried in turn.',
            "date_time('04.07.1988 9:05', 'd.m.Y H:i')",
            '1988-07-04 09:05:00',
        ),
    ]
    public static function dateTime(?string $text, string $format, string ...$others): ?string
    {
        $raw = trim((string) $text);
        if ($raw === '') {
            return null;
        }
        foreach ([$format, ...$others] as $one) {
            $date = self::read($raw, $one);
            [$pattern, $order] = self::$patterns[$one];
            if ($date !== null && preg_match($pattern, $raw, $m) === 1) {
                $time = ['H' => 0, 'i' => 0, 's' => 0];
                foreach ($order as $i => $letter) {
                    if (isset($time[$letter])) {
                        $time[$letter] = (int) $m[$i + 1];
                    }
                }
                if ($time['H'] < 24 && $time['i'] < 60 && $time['s'] < 60) {
                    return $date.sprintf(' %02d:%02d:%02d', $time['H'], $time['i'], $time['s']);
                }
            }
        }
        throw new RuleFailure(
            'not_a_date',
            'Not a date and time in the form '.implode(' or ', [$format, ...$others]),
            $raw,
        );
    }

    #[
        Described(
            'serial_date',
            'number, since',
            'The date behind a spreadsheet\'s serial number, counted from 1900 or 1904.',
            "serial_date('39448')",
            '2008-01-01',
        ),
    ]
    public static function serialDate(string|int|null $number, string|int $since = 1900): ?string
    {
        $raw = trim((string) $number);
        if ($raw === '') {
            return null;
        }
        $date = is_numeric($raw) ? SerialDate::of((float) $raw, (int) $since === 1904) : null;
        if ($date === null || $date->phantom || $date->wholeDays === 0) {
            throw new RuleFailure('not_a_date', 'Not a serial number of a date', $raw);
        }

        return sprintf('%04d-%02d-%02d', $date->year, $date->month, $date->day);
    }

    #[
        Described(
            'add_days',
            'date, n',
            'The date so many days later, or earlier when negative.',
            "add_days('2004-02-28', 2)",
            '2004-03-01',
        ),
    ]
    public static function addDays(?string $date, string|int $n): ?string
    {
        $d = self::calendar($date);

        return $d?->modify(((int) $n).' days')->format('Y-m-d');
    }

    #[
        Described(
            'add_months',
            'date, n',
            'The same day so many months later; the last day of the month where it has no such day.',
            "add_months('2003-01-31', 1)",
            '2003-02-28',
        ),
    ]
    public static function addMonths(?string $date, string|int $n): ?string
    {
        $d = self::calendar($date);
        if ($d === null) {
            return null;
        }
        $month = $d->modify('first day of this month')->modify(((int) $n).' months');

        return $month->format('Y-m-').sprintf('%02d', min((int) $d->format('d'), (int) $month->format('t')));
    }

    #[Described('month_end', 'date', 'The last day of its month.', "month_end('2004-02-10')", '2004-02-29')]
    public static function monthEnd(?string $date): ?string
    {
        return self::calendar($date)?->format('Y-m-t');
    }

    #[
        Described(
            'days_between',
            'date, date',
            'Days from the first date to the second.',
            "days_between('1999-12-31', '2000-03-01')",
            '61',
        ),
    ]
    public static function daysBetween(?string $from, ?string $to): ?string
    {
        [$a, $b] = [self::calendar($from), self::calendar($to)];

        return $a === null || $b === null ? null : (string) (int) $a->diff($b)->format('%r%a');
    }

    private static function calendar(?string $date): ?\DateTimeImmutable
    {
        if (Operators::blank($date)) {
            return null;
        }
        if (
            preg_match('/^(\d{4})-(\d\d)-(\d\d)/', (string) $date, $m) !== 1
            || ! checkdate((int) $m[2], (int) $m[3], (int) $m[1])
        ) {
            throw new RuleFailure(
                'not_a_date',
                'Not a date in the form 2003-02-28; read it with date() first',
                (string) $date,
            );
        }

        return new \DateTimeImmutable("$m[1]-$m[2]-$m[3]", new \DateTimeZone('UTC'));
    }
}
