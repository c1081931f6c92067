<?php

namespace Baggage\Core\Crosswalks;

/** Legacy keys as text: parts joined by the unit separator (ISO 646, US), which no file of text holds in a key. */
final class LegacyKey
{
    public const SEPARATOR = "\x1F";

    /** Longest key that is stored, in characters. */
    public const LONGEST = 190;

    /**
     * @param  list<string|null>  $parts
     * @return string '' when every part is blank
     */
    public static function of(array $parts, KeyNormalisation $normalisation): string
    {
        if (count($parts) === 1) {
            return $normalisation->part($parts[0]);
        }
        $texts = array_map($normalisation->part(...), $parts);

        return trim(implode('', $texts)) === '' ? '' : implode(self::SEPARATOR, $texts);
    }

    public static function show(string $key): string
    {
        return str_replace(self::SEPARATOR, ' / ', $key);
    }

    /** A key as a person types it, in stored form. */
    public static function typed(string $text): string
    {
        return preg_replace('~\s+/\s+~', self::SEPARATOR, trim($text)) ?? $text;
    }
}
