<?php

namespace App\Support;

/** Lines of comma-separated values (RFC 4180, section 2). */
final class Csv
{
    /** @param  list<string|int|float|null>  $values */
    public static function line(array $values): string
    {
        return implode(',', array_map(self::cell(...), $values))."\r\n";
    }

    /** What a spreadsheet would run as a formula gets an apostrophe before it, as such programs write text themselves. */
    private static function cell(string|int|float|null $value): string
    {
        $text = (string) $value;
        if (preg_match('/^[=+\-@\t\r]/', $text) === 1 && ! is_numeric($text)) {
            $text = "'$text";
        }

        return strpbrk($text, ",\"\r\n") === false ? $text : '"'.str_replace('"', '""', $text).'"';
    }
}
