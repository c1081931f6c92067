<?php

namespace Baggage\Core\Writing;

/** Text in a file of separated values that programs which open it would run as a formula: an apostrophe before it keeps it a text. */
final class Guarded
{
    private const BEGINS = "=+-@\t\r";

    public static function text(string $text): string
    {
        return $text !== '' && strpos(self::BEGINS, $text[0]) !== false && ! is_numeric($text) ? "'$text" : $text;
    }

    /** Whether a cell of a file that came back says what was written into it. */
    public static function isSame(string $written, string $cell): bool
    {
        return $cell === $written || ($cell !== '' && $cell === self::text($written));
    }
}
