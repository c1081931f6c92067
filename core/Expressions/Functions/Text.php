<?php

namespace Baggage\Core\Expressions\Functions;

use Baggage\Core\Expressions\Described;
use Baggage\Core\Expressions\RuleFailure;

final class Text
{
    /** Bytes a text made by a rule may have, so that a rule cannot eat the machine's memory. */
    public const LONGEST = 1_000_000;

    private static ?\Transliterator $plain = null;

    #[Described('trim', 'text', 'Without blanks at both ends; none when nothing is left.', "trim('  Skarv ')", 'Skarv')]
    public static function trim(?string $text): ?string
    {
        $text = (string) $text;
        // Most texts begin and end with a visible character of ASCII.
        if ($text !== '' && $text[0] > ' ' && $text[0] <= '~' && $text[-1] > ' ' && $text[-1] <= '~') {
            return $text;
        }
        $text = preg_replace('/^[\s\x{00A0}\x{FEFF}]+|[\s\x{00A0}\x{FEFF}]+$/u', '', $text);

        return $text === '' ? null : $text;
    }

    #[
        Described(
            'squeeze',
            'text',
            'Trimmed, and every run of blanks inside made one.',
            "squeeze(' Grey   Seal ')",
            'Grey Seal',
        ),
    ]
    public static function squeeze(?string $text): ?string
    {
        return self::trim((string) preg_replace('/[\s\x{00A0}]+/u', ' ', (string) $text));
    }

    #[
        Described(
            'tidy',
            'text',
            'Squeezed, and written Like This when it was all capitals or all small.',
            "tidy(' LADY  ORLA ')",
            'Lady Orla',
        ),
    ]
    public static function tidy(?string $text): ?string
    {
        $text = self::squeeze($text);
        if ($text === null || ($text !== mb_strtoupper($text) && $text !== mb_strtolower($text))) {
            return $text;
        }

        return Names::capitalised($text);
    }

    #[Described('upper', 'text', 'In capitals, trimmed.', "upper('ss 114')", 'SS 114')]
    public static function upper(?string $text): ?string
    {
        $text = self::trim($text);

        return $text === null ? null : mb_strtoupper($text);
    }

    #[Described('lower', 'text', 'In small letters, trimmed.', "lower('Info@ORRIN.example')", 'info@orrin.example')]
    public static function lower(?string $text): ?string
    {
        $text = self::trim($text);

        return $text === null ? null : mb_strtolower($text);
    }

    #[Described('left', 'text, n', 'The first n characters.', "left('Kittiwake', 4)", 'Kitt')]
    public static function left(?string $text, int|string $n): ?string
    {
        return $text === null ? null : mb_substr($text, 0, max(0, (int) $n));
    }

    #[Described('right', 'text, n', 'The last n characters.', "right('CR-1182', 4)", '1182')]
    public static function right(?string $text, int|string $n): ?string
    {
        return $text === null || (int) $n <= 0 ? null : mb_substr($text, -(int) $n);
    }

    #[
        Described(
            'middle',
            'text, start, n',
            'n characters from position start, counted from 1.',
            "middle('A-07-B', 3, 2)",
            '07',
        ),
    ]
    public static function middle(?string $text, int|string $start, int|string $n): ?string
    {
        return $text === null ? null : mb_substr($text, max(0, (int) $start - 1), max(0, (int) $n));
    }

    #[
        Described(
            'replace',
            'text, old, new',
            'Every occurrence of old replaced by new.',
            "replace('A/07', '/', '-')",
            'A-07',
        ),
    ]
    public static function replace(?string $text, string $old, ?string $new): ?string
    {
        if ($text === null || $old === '') {
            return $text;
        }
        // Reckoned before it is made: a million letters, each replaced by a million, would end the worker.
        if (
            strlen((string) $new) > strlen($old)
            && strlen($text) + substr_count($text, $old) * (strlen((string) $new) - strlen($old)) > self::LONGEST
        ) {
            throw self::tooLong($text);
        }

        return str_replace($old, (string) $new, $text);
    }

    #[
        Described(
            'pad',
            'text, n, filler',
            'Filled up on the left to n characters; the filler is 0 unless stated.',
            "pad('7', 3)",
            '007',
        ),
    ]
    public static function pad(?string $text, int|string $n, string $filler = '0'): ?string
    {
        $text = self::trim($text);
        if ($text === null || $filler === '') {
            return $text;
        }
        $missing = min((int) $n, 10_000) - mb_strlen($text);

        return $missing > 0
            ? mb_substr(str_repeat($filler, intdiv($missing, mb_strlen($filler)) + 1), 0, $missing).$text
            : $text;
    }

    #[
        Described(
            'part',
            'text, separator, n',
            'The n-th part between separators, counted from 1, or from the end when negative.',
            "part('Pier 3 | Slip 12', '|', 2)",
            'Slip 12',
        ),
    ]
    public static function part(?string $text, string $separator, int|string $n): ?string
    {
        if ($text === null || $separator === '') {
            return self::trim($text);
        }
        $parts = explode($separator, $text);
        $n = (int) $n;

        return self::trim($parts[$n < 0 ? count($parts) + $n : $n - 1] ?? null);
    }

    #[
        Described(
            'join',
            'separator, text, …',
            'The texts that are not blank, with the separator between them.',
            "join(', ', 'Quay 1', '', 'Inverlee')",
            'Quay 1, Inverlee',
        ),
    ]
    public static function join(string $separator, ?string ...$texts): ?string
    {
        $kept = array_filter(array_map(self::trim(...), $texts), fn ($t) => $t !== null);

        return $kept === [] ? null : self::bounded(implode($separator, $kept));
    }

    #[Described('digits', 'text', 'Only its digits.', "digits('(0151) 496-0018')", '01514960018')]
    public static function digits(?string $text): ?string
    {
        $digits = (string) preg_replace('/\D+/', '', (string) $text);

        return $digits === '' ? null : $digits;
    }

    #[
        Described(
            'plain',
            'text',
            'Accents and foreign scripts written with the letters a to z.',
            "plain('Ærøskøbing')",
            'AEroskobing',
        ),
    ]
    public static function plain(?string $text): ?string
    {
        if ($text === null || preg_match('/[\x80-\xFF]/', $text) !== 1) {
            return $text;
        }
        // Made once: making one takes hundreds of times as long as using it.
        self::$plain ??= \Transliterator::create('Any-Latin; Latin-ASCII');

        return (string) self::$plain?->transliterate($text);
    }

    #[Described('mend', 'text', 'Repairs text whose UTF-8 was once read as Windows-1252.', "mend('BjÃ¸rn')", 'Bjørn')]
    public static function mend(?string $text): ?string
    {
        if ($text === null || preg_match('/[ÂÃâ][\x{0080}-\x{00BF}\x{0152}-\x{2122}]/u', $text) !== 1) {
            return $text;
        }
        $bytes = @iconv('UTF-8', 'WINDOWS-1252', $text);

        return $bytes !== false && preg_match('//u', $bytes) === 1 ? $bytes : $text;
    }

    #[Described('length', 'text', 'Its number of characters.', "length('Skarv')", '5')]
    public static function length(?string $text): int
    {
        return mb_strlen((string) $text);
    }

    private static function bounded(string $text): string
    {
        return strlen($text) <= self::LONGEST ? $text : throw self::tooLong($text);
    }

    private static function tooLong(string $text): RuleFailure
    {
        return new RuleFailure(
            'text_too_long',
            'The rule makes a text of more than a million bytes',
            mb_strcut($text, 0, 40),
        );
    }

    #[
        Described(
            'before',
            'text, separator',
            'What stands before the first separator; all of it where there is none.',
            "before('Skarv (tender)', '(')",
            'Skarv',
        ),
    ]
    public static function before(?string $text, string $separator): ?string
    {
        $at = $text === null || $separator === '' ? false : strpos($text, $separator);

        return self::trim($at === false ? $text : substr((string) $text, 0, $at));
    }

    #[
        Described(
            'after',
            'text, separator',
            'What stands after the first separator; none where there is none.',
            "after('Skarv (tender)', '(')",
            'tender)',
        ),
    ]
    public static function after(?string $text, string $separator): ?string
    {
        $at = $text === null || $separator === '' ? false : strpos($text, $separator);

        return $at === false ? null : self::trim(substr((string) $text, $at + strlen($separator)));
    }

    #[
        Described(
            'between',
            'text, start, end',
            'What stands between two signs.',
            "between('Skarv (tender)', '(', ')')",
            'tender',
        ),
    ]
    public static function between(?string $text, string $start, string $end): ?string
    {
        $rest = self::after($text, $start);

        return $rest === null || ! str_contains($rest, $end) ? null : self::before($rest, $end);
    }

    #[
        Described(
            'found',
            'text, pattern, group',
            'What a pattern finds: all of it, or the group with that number.',
            "found('berth 12b, pier 3', '/([0-9]+)b/', 1)",
            '12',
        ),
    ]
    public static function found(?string $text, string $pattern, int|string $group = 0): ?string
    {
        $m = [];
        $found = @preg_match(self::pattern($pattern), (string) $text, $m);
        if ($found === false) {
            throw new RuleFailure(
                'bad_pattern',
                'The pattern cannot be applied: '.preg_last_error_msg(),
                mb_substr((string) $text, 0, 200),
            );
        }

        return $found === 1 ? self::trim($m[(int) $group] ?? null) : null;
    }

    #[
        Described(
            'replace_pattern',
            'text, pattern, new',
            'Everything a pattern finds replaced; $1 stands for its first group.',
            "replace_pattern('A07-B9', '/([0-9]+)/', '<$1>')",
            'A<07>-B<9>',
        ),
    ]
    public static function replacePattern(?string $text, string $pattern, ?string $new): ?string
    {
        if ($text === null) {
            return null;
        }
        $new = (string) $new;
        $groups = (int) preg_match_all('/[$\\\\]\{?\d/', $new);
        $made = 0;
        $put = function (array $found) use ($new, $groups, $text, &$made): string {
            $longest = max(0, ...array_map(strlen(...), array_values($found)));
            if ($made + strlen($new) + $groups * $longest > self::LONGEST) {
                throw self::tooLong($text);
            }
            $put = (string) preg_replace_callback(
                '/[$\\\\](?:\{(\d{1,2})\}|(\d{1,2}))/',
                fn (array $g) => $found[(int) ($g[1] !== '' ? $g[1] : $g[2])] ?? '',
                $new,
            );
            $made += strlen($put);

            return $put;
        };
        $out = @preg_replace_callback(self::pattern($pattern), $put, $text);
        if ($out === null) {
            $why = 'The pattern cannot be applied: '.preg_last_error_msg();
            throw new RuleFailure('bad_pattern', $why, mb_substr($text, 0, 200));
        }

        return self::bounded($out);
    }

    /** Patterns work on characters, and none may run code. */
    private static function pattern(string $pattern): string
    {
        return preg_match('/^(\W).+\1[imsx]*$/s', $pattern) === 1
            ? $pattern.'u'
            : throw new RuleFailure('bad_pattern', 'A pattern stands between two signs, for instance /\d+/', $pattern);
    }

    #[
        Described(
            'line',
            'text, n',
            'The n-th line of a text of several, counted from 1.',
            "line('Quay 1\\nInverlee', 2)",
            'Inverlee',
        ),
    ]
    public static function line(?string $text, int|string $n): ?string
    {
        $lines = preg_split('/\R/', (string) $text) ?: [];
        $n = (int) $n;

        return self::trim($lines[$n < 0 ? count($lines) + $n : $n - 1] ?? null);
    }

    #[Described('letters', 'text', 'Only its letters.', "letters('CR-118/b')", 'CRb')]
    public static function letters(?string $text): ?string
    {
        $letters = (string) preg_replace('/[^\p{L}]+/u', '', (string) $text);

        return $letters === '' ? null : $letters;
    }

    #[
        Described(
            'shorten',
            'text, n',
            'At most n characters, cut between words where that leaves most of it.',
            "shorten('Skerry Boatyard Harbour', 18)",
            'Skerry Boatyard',
        ),
    ]
    public static function shorten(?string $text, int|string $n): ?string
    {
        $text = self::trim($text);
        $n = max(1, (int) $n);
        if ($text === null || mb_strlen($text) <= $n) {
            return $text;
        }
        $cut = mb_substr($text, 0, $n + 1);
        $blank = mb_strrpos($cut, ' ');

        return self::trim($blank !== false && $blank * 2 > $n ? mb_substr($cut, 0, $blank) : mb_substr($text, 0, $n));
    }

    #[
        Described(
            'without_tags',
            'text',
            'Text out of HTML: without tags, with its signs written out.',
            "without_tags('Pier <b>3</b> &amp; quay')",
            'Pier 3 & quay',
        ),
    ]
    public static function withoutTags(?string $text): ?string
    {
        return $text === null
            ? null
            : self::trim(
                html_entity_decode(
                    strip_tags(str_ireplace(['<br>', '<br/>', '<br />', '</p>'], "\n", $text)),
                    ENT_QUOTES | ENT_HTML5,
                ),
            );
    }
}
