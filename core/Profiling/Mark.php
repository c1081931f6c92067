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

    private const YES_NO = [
        'y',
        'n',
        'yes',
        'no',
        'true',
        'false',
        '0',
        '1',
        't',
        'f',
        'j',
        'ja',
        'nein',
        'nei',
        'x',
        'on',
        'off',
    ];

    private const PLACEHOLDERS = [
        'n/a',
        'na',
        '-',
        '--',
        '?',
        '??',
        '???',
        'none',
        'null',
        'nil',
        'unknown',
        'tbc',
        'tba',
        'xxx',
        'test',
        '.',
        '#n/a',
        '#ref!',
        '#value!',
        '#div/0!',
        '#name?',
    ];

    /** First letters of words for a total. */
    private const MAY_BE_TOTAL = ['T' => 1, 't' => 1, 'G' => 1, 'g' => 1, 'S' => 1, 's' => 1, 'I' => 1, 'i' => 1];

    /** Values that begin so may have marks that others of their build have not. */
    public const TELLING = self::MAY_BE_TOTAL + ['0' => 1, '+' => 1, '-' => 1, ' ' => 1];

    /** Builds remembered at most, see Shape::raw(). */
    private const REMEMBERED = 20_000;

    /** @var array<string, int> build → marks of all values built so, where nothing else decides */
    private static array $byBuild = [];

    /** @var array<string, bool> build → what mayDecide() said of it */
    private static array $mayDecide = [];

    /** @param  string|null  $build  as Shape::raw() gives it */
    public static function of(string $value, ?string $build = null): int
    {
        $build ??= Shape::raw($value);
        if (($build === 'dddddd' || $build === 'dddddddd') && DateShape::cannotBe($value)) {
            // Of a numbered column there may be a million that have to be looked at one by one.
            return self::NOT_DATE | self::NOT_YES_NO | ($value[0] === '0' ? self::LEADING_ZERO : 0);
        }
        $marks = self::$byBuild[$build] ?? null;
        if ($marks === null) {
            $marks = self::look($value);
            if (self::decides($build, $marks)) {
                if (count(self::$byBuild) >= self::REMEMBERED) {
                    self::$byBuild = [];
                }
                self::$byBuild[$build] = $marks;
            }
        }
        if (($marks & self::NOT_WHOLE) === 0) {
            $body = ltrim($value, '+- ');

            return strlen($body) > 1 && $body[0] === '0' ? $marks | self::LEADING_ZERO : $marks;
        }

        return $value !== ''
            && isset(self::MAY_BE_TOTAL[$value[0]])
            && strlen($value) < 24
            && preg_match('/^(?:(?:grand|sub)[- ]?)?totals?\b|^(?:sum|summe|gesamt|totalt|i alt)\b/i', $value) === 1
            ? $marks | self::TOTAL_WORD
            : $marks;
    }

    /** Whether all values of the build of a value seen before have its marks, except those that begin with one of TELLING. */
    public static function alike(string $build): bool
    {
        return isset(self::$byBuild[$build]);
    }

    /** Whether all values of a build have the same marks: not those that may be dates, words with a meaning, or hold more than ASCII. */
    private static function decides(string $build, int $marks): bool
    {
        if (($marks & (self::NOT_DATE | self::IMPOSSIBLE_DATE | self::BLANK)) !== self::NOT_DATE) {
            return false;
        }
        if (count(self::$mayDecide) >= self::REMEMBERED) {
            self::$mayDecide = [];
        }

        return self::$mayDecide[$build] ??= self::mayDecide($build);
    }

    private static function mayDecide(string $build): bool
    {
        if (preg_match('/[^ -~]/', $build) === 1) {
            return false;
        }
        if (strpbrk($build, 'Ul') === false) {
            // Digits and signs: what may be a date is looked at one by one, and so are 0 and 1.
            return strlen(trim($build)) > 1
                && preg_match('~^d{6}$|^d{8}$|^d{1,4}([-/. ])d{1,2}\1d{1,4}~', $build) !== 1;
        }

        // Short words may mean yes, no or nothing; digits before letters a date or a power of ten.
        return (strlen(trim($build)) > 8 || strpos($build, 'd') !== false)
            && preg_match('/^d{1,2}[- ][Ul]|^d(?:[.,]d+)?[Ul][+d]/', $build) !== 1;
    }

    private static function look(string $value): int
    {
        if (isset($value[1]) && ctype_digit($value)) {
            return DateShape::marks($value) | self::NOT_YES_NO;
        }
        $text = trim($value, " \t\u{A0}");
        if ($text === '') {
            return self::BLANK
                | self::NOT_WHOLE
                | self::NOT_POINT
                | self::NOT_COMMA
                | self::NOT_DATE
                | self::NOT_YES_NO;
        }
        $marks = 0;
        if ($text !== $value || strpos($text, '  ') !== false) {
            $marks |= self::STRAY_SPACES;
        }
        $digits = strpbrk($text, '0123456789') !== false;
        $marks |= $digits && strspn($text, '0123456789.,+-') === strlen($text)
            ? self::number($text)
            : self::otherNumber($text, $digits);
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
        if (preg_match('/[\x80-\xFF\x00-\x08\x0B\x0C\x0E-\x1F]/', $value) === 1) {
            $marks |= self::damage($value);
        }

        return $marks;
    }

    /** Of a text that is more than digits, points, commas and signs: a power of ten, an amount with its currency. */
    private static function otherNumber(string $text, bool $digits): int
    {
        $marks = self::NOT_WHOLE | self::NOT_POINT | self::NOT_COMMA;
        if ($digits && preg_match('/^\d(?:[.,]\d+)?[eE]\+?\d{1,3}$/', $text) === 1) {
            $marks |= self::SCIENTIFIC;
        }
        if ($digits && preg_match('/^[-+(]?[£€$]?\s?\d{1,3}(?:[.,\' ]?\d{3})*(?:[.,]\d+)?\)?-?$/u', $text) === 1) {
            $marks &= ~(preg_match('/,\d{1,2}\)?-?$/', $text) === 1 ? self::NOT_COMMA : self::NOT_POINT);
        }

        return $marks;
    }

    private static function damage(string $value): int
    {
        $marks = 0;
        // UTF-8 read as a single-byte page leaves pairs such as Ã¸ or â€™; the replacement character marks what was lost.
        $pairs = '/[ÂÃ][\x{0080}-\x{00BF}\x{0152}-\x{2122}]'
            .'|â[\x{0080}-\x{009F}€][\x{0080}-\x{00BF}\x{0152}-\x{2122}]|\x{FFFD}/u';
        if (preg_match($pairs, $value) === 1) {
            $marks |= self::MOJIBAKE;
        }
        $controls = '/[\x00-\x08\x0B\x0C\x0E-\x1F]|\xC2[\x80-\x9F]|\xE2\x80[\x8B-\x8F]|\xEF\xBB\xBF/';
        if (preg_match($controls, $value) === 1) {
            $marks |= self::CONTROL;
        }

        return $marks;
    }

    private static function number(string $text): int
    {
        $body = rtrim(ltrim($text, '+-'), '-');
        if ($body !== '' && ctype_digit($body)) {
            return 0;
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
