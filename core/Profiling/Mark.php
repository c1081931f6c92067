<?php

namespace Baggage\Core\Profiling;

/** What can be said of one value by itself, as bits of one number. A set bit is a doubt. */
final class Mark
{
    public const NOT_WHOLE = 1;

    public const NOT_POINT = 2;

    public const NOT_COMMA = 4;

    public const NOT_DATE = 8;

    public const NOT_YES_NO = 16;

    public const STRAY_SPACES = 32;

    public const MOJIBAKE = 64;

    public const SENTINEL_DATE = 128;

    public const TWO_DIGIT_YEAR = 256;

    public const LEADING_ZERO = 512;

    public const CONTROL = 1024;

    public const PLACEHOLDER = 2048;

    public const SCIENTIFIC = 4096;

    public const IMPOSSIBLE_DATE = 8192;

    public const TOTAL_WORD = 16384;

    public const BLANK = 32768;

    /** Marks that are findings by themselves, whatever the column turns out to be. */
    public const ODD = self::STRAY_SPACES | self::MOJIBAKE | self::CONTROL | self::PLACEHOLDER | self::SCIENTIFIC;

    public const ALL = 65535;

    private const YES_NO = ['y', 'n', 'yes', 'no', 'true', 'false', '0', '1', 't', 'f', 'j', 'ja', 'nein', 'nei', 'x', 'on', 'off'];

    private const PLACEHOLDERS = ['n/a', 'na', '-', '--', '?', '??', '???', 'none', 'null', 'nil', 'unknown', 'tbc', 'tba', 'xxx', 'test', '.', '#n/a', '#ref!', '#value!', '#div/0!', '#name?'];

    public static function of(string $value): int
    {
        $text = trim($value, " \t\u{A0}");
        if ($text === '') {
            return self::BLANK | self::NOT_WHOLE | self::NOT_POINT | self::NOT_COMMA | self::NOT_DATE | self::NOT_YES_NO;
        }
        $marks = 0;
        if ($text !== $value || strpos($text, '  ') !== false) {
            $marks |= self::STRAY_SPACES;
        }
        $digits = strpbrk($text, '0123456789') !== false;
        if ($digits && strspn($text, '0123456789.,+-') === strlen($text)) {
            $marks |= self::number($text);
        } else {
            $marks |= self::NOT_WHOLE | self::NOT_POINT | self::NOT_COMMA;
            if ($digits && preg_match('/^\d(?:[.,]\d+)?[eE]\+?\d{1,3}$/', $text) === 1) {
                $marks |= self::SCIENTIFIC;
            }
            if ($digits && preg_match('/^[-+(]?[£€$]?\s?\d{1,3}(?:[.,\' ]?\d{3})*(?:[.,]\d+)?\)?-?$/u', $text) === 1) {
                $marks &= ~(preg_match('/,\d{1,2}\)?-?$/', $text) === 1 ? self::NOT_COMMA : self::NOT_POINT);
            }
        }
        $marks |= $digits ? DateShape::marks($text) : self::NOT_DATE;
        if (strlen($text) > 8) {
            $marks |= self::NOT_YES_NO;
        } else {
            $low = strtolower($text);
            if (! in_array($low, self::YES_NO, true)) {
                $marks |= self::NOT_YES_NO;
            }
            if (! $digits && in_array($low, self::PLACEHOLDERS, true)) {
                $marks |= self::PLACEHOLDER;
            }
        }
        if (strlen($text) < 24 && preg_match('/^(?:(?:grand|sub)[- ]?)?totals?\b|^(?:sum|summe|gesamt|totalt|i alt)\b/i', $text) === 1) {
            $marks |= self::TOTAL_WORD;
        }
        if (preg_match('/[\x80-\xFF\x00-\x08\x0B\x0C\x0E-\x1F]/', $value) === 1) {
            // UTF-8 read as a single-byte page leaves pairs such as Ã¸ or â€™; the replacement character marks what was lost.
            if (preg_match('/[ÂÃ][\x{0080}-\x{00BF}\x{0152}-\x{2122}]|â[\x{0080}-\x{009F}€][\x{0080}-\x{00BF}\x{0152}-\x{2122}]|\x{FFFD}/u', $value) === 1) {
                $marks |= self::MOJIBAKE;
            }
            if (preg_match('/[\x00-\x08\x0B\x0C\x0E-\x1F]|\xC2[\x80-\x9F]|\xE2\x80[\x8B-\x8F]|\xEF\xBB\xBF/', $value) === 1) {
                $marks |= self::CONTROL;
            }
        }

        return $marks;
    }

    private static function number(string $text): int
    {
        $body = rtrim(ltrim($text, '+-'), '-');
        if ($body !== '' && ctype_digit($body)) {
            return strlen($body) > 1 && $body[0] === '0' ? self::LEADING_ZERO : 0;
        }
        $marks = self::NOT_WHOLE;
        if (preg_match('/^(?:\d+|\d{1,3}(?:,\d{3})+)?(?:\.\d*)?$/', $body) !== 1) {
            $marks |= self::NOT_POINT;
        }
        if (preg_match('/^(?:\d+|\d{1,3}(?:\.\d{3})+)?(?:,\d*)?$/', $body) !== 1) {
            $marks |= self::NOT_COMMA;
        }

        return $marks;
    }
}
