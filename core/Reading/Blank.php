<?php

namespace Baggage\Core\Reading;

/** Whether a cell holds nothing: no text, or nothing but white space as Unicode has it (property White_Space), NUL and byte order mark. */
final class Blank
{
    public static function is(?string $text): bool
    {
        // Nearly every text begins with a visible character of ASCII.
        if ($text === null || $text === '') {
            return true;
        }
        if ($text[0] > ' ' && $text[0] <= '~') {
            return false;
        }

        return trim($text) === '' || preg_match('/^[\s\p{Z}\x{85}\x{FEFF}\x00]*+$/u', $text) === 1;
    }
}
