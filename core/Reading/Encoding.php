<?php

namespace Baggage\Core\Reading;

/** The text encodings legacy files come in. */
enum Encoding: string
{
    case Utf8 = 'UTF-8';
    /** UTF-8 line by line, and Windows-1252 for each line that is not: two programs wrote into one file. */
    case Mixed = 'UTF-8 or Windows-1252';
    case Utf16LE = 'UTF-16LE';
    case Utf16BE = 'UTF-16BE';
    case Windows1252 = 'Windows-1252';
    case Windows1250 = 'Windows-1250';
    case Windows1251 = 'Windows-1251';
    case Windows1253 = 'Windows-1253';
    case Windows1254 = 'Windows-1254';
    case Windows1257 = 'Windows-1257';
    case Latin1 = 'ISO-8859-1';
    case Latin2 = 'ISO-8859-2';
    case Latin4 = 'ISO-8859-4';
    case Cyrillic = 'ISO-8859-5';
    case Greek = 'ISO-8859-7';
    case Latin5 = 'ISO-8859-9';
    case Latin6 = 'ISO-8859-10';
    case Latin7 = 'ISO-8859-13';
    case Latin9 = 'ISO-8859-15';
    case Dos850 = 'CP850';
    case Dos437 = 'CP437';
    case Dos852 = 'CP852';
    case Dos865 = 'CP865';
    case Dos866 = 'CP866';
    case Macintosh = 'MACINTOSH';

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
            self::Utf8, self::Mixed => "\xEF\xBB\xBF",
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
