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
    /** Letters some collation takes for others, and pairs that stand for one letter. */
    private const EQUAL = [
        'w' => 'v', 'y' => 'i', 'j' => 'i', 'u' => 'i', 'ae' => 'a', 'oe' => 'o', 'ue' => 'i', 'th' => 't', 'dz' => 'z',
    ];

    private static ?\Transliterator $plain = null;

    public static function of(string $value): string
    {
        if (preg_match('/[^\x20-\x7E]/', $value) === 1) {
            $value = self::plain($value);
        }
        $value = strtr(strtolower($value), self::EQUAL);

        // Blanks at the end do not count, and a doubled letter may be one that was written as two.
        return rtrim((string) preg_replace('/([a-z])\1+/', '$1', $value));
    }

    private static function plain(string $value): string
    {
        self::$plain ??= \Transliterator::create('NFKD; Lower; [[:M:][:Cf:]] Remove; Any-Latin; Latin-ASCII; Lower');
        $value = (string) self::$plain?->transliterate($value);

        return (string) preg_replace('/[^\x20-\x7E]/', '', $value);
    }
}
