<?php

namespace Baggage\Core\Expressions\Functions;

use Baggage\Core\Expressions\Described;
use Baggage\Core\Expressions\RuleFailure;

final class Dates
{
    private const MONTHS = ['jan' => 1, 'feb' => 2, 'mar' => 3, 'apr' => 4, 'may' => 5, 'jun' => 6, 'jul' => 7, 'aug' => 8, 'sep' => 9, 'oct' => 10, 'nov' => 11, 'dec' => 12];

    /** @var array<string, array{string, list<string>}> */
    private static array $patterns = [];

    #[Described('date', 'text, format, …', 'A date in one of the formats, tried in turn: d day, m month, M month by name, y year of two digits, Y of four; H, i, s a time that is dropped.', "date('04/07/88', 'd/m/y')", '1988-07-04')]
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

    private static function read(string $text, string $format): ?string
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
                $part['Y'] = (int) $found + ((int) $found >= 69 ? 1900 : 2000);
            } else {
                $part[$letter] = (int) $found;
            }
        }

        return checkdate((int) $part['m'], (int) $part['d'], (int) $part['Y'])
            ? sprintf('%04d-%02d-%02d', $part['Y'], $part['m'], $part['d']) : null;
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
}
