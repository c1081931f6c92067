<?php

namespace Baggage\Core\Writing;

use Baggage\Core\Reading\Workbook\SerialDate;
use Baggage\Core\Writing\Workbook\Xml;

/**
 * What became of a text in a file that somebody opened and saved. Programs that keep tables take texts for numbers and dates on their
 * own: leading zeros are lost, days become serial numbers (common practice, no source). Nobody changed the text then.
 */
final class Resaved
{
    private const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];

    private const TRUE = ['true', 'wahr', 'vrai', 'verdadero', 'vero', 'waar'];

    private const FALSE = ['false', 'falsch', 'faux', 'falso', 'onwaar'];

    /** Whether a cell says what was written into it, as files can say it. */
    public static function isSame(?string $was, ?string $is): bool
    {
        [$was, $is] = [self::plain((string) $was), self::plain((string) $is)];
        if ($is === $was || Guarded::isSame($was, $is)) {
            return true;
        }

        return strlen($was) > Xml::MOST && $is === mb_substr($was, 0, Xml::MOST);
    }

    /** Whether a cell says what a program makes of the text that was written into it. */
    public static function isMadeOf(?string $was, ?string $is): bool
    {
        [$was, $is] = [trim(self::plain((string) $was), " \n\t\u{A0}"), trim(self::plain((string) $is), " \n\t\u{A0}")];
        if ($was === '' || $is === '') {
            return false;
        }
        $number = self::number($is);

        return ($number !== null && in_array($number, self::numbers($was), true))
            || self::isSameDay($was, $is, $number)
            || self::isSameWord($was, $is)
            || self::isPoorer($was, $is);
    }

    private static function plain(string $text): string
    {
        return str_replace(["\r\n", "\r"], "\n", $text);
    }

    /** A number as fifteen digits say it, which is what such programs keep; null where it is none. */
    private static function number(string $text): ?string
    {
        return preg_match('/^[+-]?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?$/', $text) === 1 ? sprintf('%.14E', (float) $text) : null;
    }

    /** @return list<string> numbers a text may be taken for: with a point or a comma before decimals, and others between thousands */
    private static function numbers(string $text): array
    {
        $text = (string) preg_replace('/^[£$€]\s?|\s?[£$€]$/u', '', $text);
        $isPercent = str_ends_with($text, '%');
        $text = str_replace(["\u{A0}", ' ', "'"], '', rtrim($text, '% '));
        $found = [];
        foreach ([[',', '.'], ['.', ',']] as [$thousands, $decimal]) {
            $t = preg_quote($thousands, '/');
            $one = preg_match("/^[+-]?\\d{1,3}(?:$t\\d{3})+/", $text) === 1 ? str_replace($thousands, '', $text) : $text;
            $one = str_replace($decimal, '.', $one);
            $number = self::number($one);
            if ($number !== null) {
                $found[] = $isPercent ? sprintf('%.14E', (float) $one / 100) : $number;
            }
        }

        return $found;
    }

    private static function isSameDay(string $was, string $is, ?string $number): bool
    {
        // The same way to write a day with another day is another day.
        $shape = fn (string $text) => preg_replace('/\d/', '0', $text);
        if ($shape($was) === $shape($is)) {
            return false;
        }
        $serial = $number === null ? null : SerialDate::of((float) $is, false)?->iso();
        $said = $serial === null ? self::days($is) : [$serial, ...$serial === self::time($serial) ? [] : ["$serial 00:00:00"]];
        foreach (self::days($was) as $day) {
            foreach ($said as $one) {
                // A day without its year gets the one in which it was saved.
                if ($one === $day || (str_starts_with($day, '????') && substr($one, 4) === substr($day, 4))) {
                    return true;
                }
            }
        }
        $time = self::time($was);

        return $time !== null && ($serial === $time || self::time($is) === $time);
    }

    private static function time(string $text): ?string
    {
        return preg_match('/^(\d{1,2}):(\d{2})(?::(\d{2}))?$/', $text, $m) === 1 && $m[1] < 24
            ? sprintf('%02d:%02d:%02d', $m[1], $m[2], $m[3] ?? 0)
            : null;
    }

    /** @return list<string> days a text may be taken for, ISO 8601, with the time of day where there is one; ???? for no year */
    private static function days(string $text): array
    {
        $at = '';
        if (preg_match('/^(.+?)[ T](\d{1,2}:\d{2}(?::\d{2})?)$/', $text, $m) === 1) {
            [$text, $at] = [$m[1], ' '.self::time($m[2])];
        }
        $parts = preg_split('/[\/.\- ]+/', rtrim($text, '.')) ?: [];
        $parts = array_map(fn (string $p) => ($month = array_search(strtolower(substr($p, 0, 3)), self::MONTHS, true)) !== false
            && ctype_alpha($p) ? 'm'.($month + 1) : $p, $parts);
        $found = [];
        foreach (self::orders($parts) as [$year, $month, $day]) {
            if (ctype_digit($month) && ctype_digit($day) && checkdate((int) $month, (int) $day, $year === '????' ? 2000 : (int) $year)) {
                $found[] = $year.sprintf('-%02d-%02d', $month, $day).($at === ' 00:00:00' ? '' : $at);
            }
        }

        return array_values(array_unique($found));
    }

    /**
     * @param  list<string>  $parts
     * @return list<array{string, string, string}> year, month, day
     */
    private static function orders(array $parts): array
    {
        $years = fn (string $y) => strlen($y) === 4 ? [$y] : (strlen($y) === 2 ? ["19$y", "20$y"] : []);
        $named = array_values(array_filter($parts, fn (string $p) => str_starts_with($p, 'm') && ctype_digit(substr($p, 1))));
        $rest = array_values(array_diff($parts, $named));
        if (array_filter($rest, fn (string $p) => ! ctype_digit($p)) !== []) {
            return [];
        }
        $month = isset($named[0]) ? substr($named[0], 1) : null;
        $pairs = match (true) {
            $month !== null && count($rest) === 2 => [[$rest[1], $month, $rest[0]]],
            $month !== null && count($rest) === 1 => [['????', $month, $rest[0]]],
            count($rest) === 3 && strlen($rest[0]) === 4 => [[$rest[0], $rest[1], $rest[2]]],
            count($rest) === 3 => [[$rest[2], $rest[1], $rest[0]], [$rest[2], $rest[0], $rest[1]]],
            count($rest) === 2 => [['????', $rest[1], $rest[0]], ['????', $rest[0], $rest[1]]],
            default => [],
        };
        $found = [];
        foreach ($pairs as [$y, $m, $d]) {
            foreach ($y === '????' ? [$y] : $years($y) as $year) {
                $found[] = [$year, $m, $d];
            }
        }

        return $found;
    }

    /** Letters a file's encoding has no place for became question marks. */
    private static function isPoorer(string $was, string $is): bool
    {
        if (! str_contains($is, '?') || ! mb_check_encoding($was, 'UTF-8')) {
            return false;
        }
        foreach (['Windows-1252', 'ISO-8859-1', 'ISO-8859-2', 'ASCII'] as $encoding) {
            if (mb_convert_encoding(mb_convert_encoding($was, $encoding, 'UTF-8'), 'UTF-8', $encoding) === $is) {
                return true;
            }
        }

        return false;
    }

    private static function isSameWord(string $was, string $is): bool
    {
        foreach ([[self::TRUE, '1'], [self::FALSE, '0']] as [$words, $number]) {
            if (in_array(mb_strtolower($was), $words, true)) {
                return $is === $number || in_array(mb_strtolower($is), $words, true);
            }
        }

        return false;
    }
}
