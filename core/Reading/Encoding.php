<?php

namespace Baggage\Core\Reading;

/** The text encodings legacy files come in. */
enum Encoding: string
{
    case Utf8 = 'UTF-8';
    case Utf16LE = 'UTF-16LE';
    case Utf16BE = 'UTF-16BE';
    case Windows1252 = 'Windows-1252';
    case Latin1 = 'ISO-8859-1';
    case Latin9 = 'ISO-8859-15';
    case Dos850 = 'CP850';
    case Dos437 = 'CP437';

    /** @return list<string> */
    public static function names(): array
    {
        return array_column(self::cases(), 'value');
    }

    /** @throws ReadingError when the name is none of names() */
    public static function named(string $name): self
    {
        foreach (self::cases() as $case) {
            if (strcasecmp($case->value, $name) === 0) {
                return $case;
            }
        }
        throw ReadingError::unknownEncoding($name);
    }

    /** The byte order mark a file in this encoding may begin with. */
    public function mark(): string
    {
        return match ($this) {
            self::Utf8 => "\xEF\xBB\xBF",
            self::Utf16LE => "\xFF\xFE",
            self::Utf16BE => "\xFE\xFF",
            default => '',
        };
    }

    /** Bytes that mean nothing in this encoding; Windows-1252 leaves five undefined (WHATWG Encoding, index windows-1252). */
    public function undefined(): string
    {
        return $this === self::Windows1252 ? "\x81\x8D\x8F\x90\x9D" : '';
    }
}
