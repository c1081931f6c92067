<?php

namespace Baggage\Core\Writing;

/** Text in a file of separated values that programs which open it would run as a formula: an apostrophe before it keeps it a text. */
final class Guarded
{
    private const BEGINS = "=+-@\t\r";

    /** A line of cells between which a zero byte stands, one of them such a text or a number below zero. */
    private const BEGIN = '/(?:^|\0)[=+\-@\t\r]/';

    /** What makes quotes necessary: the delimiter, quotes and ends of lines (RFC 4180, section 2), and white space some programs trim. */
    private const QUOTED = "\",\r\n\t";

    /** A cell without any of these stands as it is. */
    private const SPECIAL = self::BEGINS.self::QUOTED;

    public static function text(string $text): string
    {
        return $text !== '' && strpos(self::BEGINS, $text[0]) !== false && ! is_numeric($text) ? "'$text" : $text;
    }

    /** A cell of a line as RFC 4180 has it, guarded. */
    public static function cell(string $text): string
    {
        if ($text === '' || strpbrk($text, self::SPECIAL) === false) {
            return $text;
        }
        $text = self::text($text);

        return strpbrk($text, self::QUOTED) === false ? $text : '"'.str_replace('"', '""', $text).'"';
    }

    /**
     * A line as RFC 4180 has it, without its end, each cell guarded. Most lines need no look at each cell: where one needs quotes and
     * none is a formula, all have them.
     *
     * @param  list<string|null>  $cells
     */
    public static function line(array $cells): string
    {
        $all = implode("\0", $cells);
        if (preg_match(self::BEGIN, $all) === 1 || str_contains($all, '"') || substr_count($all, "\0") !== max(0, count($cells) - 1)) {
            return implode(',', array_map(fn (?string $cell) => self::cell((string) $cell), $cells));
        }

        return strpbrk($all, self::QUOTED) === false ? implode(',', $cells) : '"'.implode('","', $cells).'"';
    }

    /** Whether a cell of a file that came back says what was written into it. */
    public static function isSame(string $written, string $cell): bool
    {
        return $cell === $written || ($cell !== '' && $cell === self::text($written));
    }
}
