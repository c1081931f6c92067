<?php

namespace Baggage\Core\Targets;

/**
 * Text folded more coarsely than any collation of MariaDB compares it: values a unique key may take for one fold alike. Values that
 * fold alike need not be one to the target; it decides when their turn comes.
 *
 * Found by comparing WEIGHT_STRING of every character under every collation of a server, and by the tailorings of the Unicode
 * Common Locale Data Repository that make letters equal (v and w, y and ü in Swedish, i and y in Lithuanian, å and aa in Danish …).
 */
final class Fold
{
    /** Capitals, and letters some collation takes for others. */
    private const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZwyju';

    private const EQUAL = 'abcdefghiiklmnopqrstivvxizviii';

    /** What some collation takes together with the letter before for one: ae for ä, th for þ, dz for its digraph. */
    private const SECOND = ['e', 'h', 'z'];

    private static ?\Transliterator $plain = null;

    public static function of(string $value): string
    {
        if (preg_match('/[^\x20-\x7E]/', $value) === 1) {
            $value = self::plain($value);
        }
        $value = strtr($value, self::LETTERS, self::EQUAL);
        if (strpbrk($value, 'abcdefghijklmnopqrstuvwxyz') !== false) {
            // A doubled letter may be one that was written as two.
            $value = (string) preg_replace('/([a-z])\1+/', '$1', str_replace(self::SECOND, '', $value));
        }

        // Blanks at the end do not count.
        return rtrim($value);
    }

    private static function plain(string $value): string
    {
        self::$plain ??= \Transliterator::create('NFKD; Lower; [[:M:][:Cf:]] Remove; Any-Latin; Latin-ASCII; Lower');
        $value = (string) self::$plain?->transliterate($value);

        return (string) preg_replace('/[^\x20-\x7E]/', '', $value);
    }
}
