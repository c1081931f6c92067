<?php

namespace Baggage\Core\Reading;

/** Turns a stream of byte chunks into chunks of UTF-8, cut only between characters. */
final class Decoder
{
    /** mbstring has no table for some old code pages; iconv has. */
    private const BY_ICONV = [
        Encoding::Dos437,
        Encoding::Dos852,
        Encoding::Dos865,
        Encoding::Macintosh,
        Encoding::Windows1250,
        Encoding::Windows1253,
        Encoding::Windows1257,
    ];

    /** Lines that were read as Windows-1252 because they are not UTF-8. */
    public readonly RowList $switched;

    public function __construct(private readonly Encoding $encoding)
    {
        $this->switched = new RowList;
    }

    /**
     * @param  iterable<string>  $chunks  bytes in file order
     * @return \Generator<string> UTF-8 without byte order mark
     *
     * @throws ReadingError naming the line of the first bytes that are not of this encoding
     */
    public function decode(iterable $chunks): \Generator
    {
        $rest = '';
        $line = 1;
        $first = true;
        foreach ($chunks as $chunk) {
            $bytes = $rest.$chunk;
            if ($first) {
                $mark = $this->encoding->mark();
                if (strlen($bytes) < 3) {
                    $rest = $bytes;

                    continue;
                }
                if ($mark !== '' && str_starts_with($bytes, $mark)) {
                    $bytes = substr($bytes, strlen($mark));
                }
                $first = false;
            }
            $cut = $this->wholeCharacters($bytes);
            $rest = substr($bytes, $cut);
            $text = $this->convert(substr($bytes, 0, $cut), $line);
            $line += substr_count($text, "\n");
            yield $text;
        }
        if ($rest !== '') {
            if ($first && $this->encoding->mark() !== '' && str_starts_with($rest, $this->encoding->mark())) {
                $rest = substr($rest, strlen($this->encoding->mark()));
            }
            yield $this->convert($rest, $line);
        }
    }

    private function wholeCharacters(string $bytes): int
    {
        $length = strlen($bytes);
        if ($this->encoding === Encoding::Utf8) {
            // Step back over an unfinished sequence: at most three continuation bytes and their lead (RFC 3629).
            for ($back = 1; $back <= min(4, $length); $back++) {
                $byte = ord($bytes[$length - $back]);
                if ($byte < 0x80) {
                    return $length;
                }
                if ($byte >= 0xC0) {
                    $needs = $byte >= 0xF0 ? 4 : ($byte >= 0xE0 ? 3 : 2);

                    return $needs > $back ? $length - $back : $length;
                }
            }

            return $length;
        }
        if ($this->encoding === Encoding::Mixed) {
            // Each line is judged as a whole.
            $end = strrpos($bytes, "\n");

            return $end === false ? 0 : $end + 1;
        }
        if ($this->encoding === Encoding::Utf16LE || $this->encoding === Encoding::Utf16BE) {
            $even = $length - ($length % 2);
            if ($even >= 2) {
                $lead = ord($bytes[$this->encoding === Encoding::Utf16LE ? $even - 1 : $even - 2]);
                // A high surrogate waits for its partner (RFC 2781).
                if ($lead >= 0xD8 && $lead <= 0xDB) {
                    return $even - 2;
                }
            }

            return $even;
        }

        return $length;
    }

    private function convert(string $bytes, int $line): string
    {
        if ($this->encoding === Encoding::Utf8) {
            if (preg_match('//u', $bytes) !== 1) {
                $this->complain($bytes, $line);
            }

            return $bytes;
        }
        if ($this->encoding === Encoding::Mixed) {
            return preg_match('//u', $bytes) === 1 ? $bytes : $this->lineByLine($bytes, $line);
        }
        $undefined = $this->encoding->undefined();
        if ($undefined !== '' && strcspn($bytes, $undefined) < strlen($bytes)) {
            $at = strcspn($bytes, $undefined);
            throw ReadingError::badBytes(
                $line + substr_count($bytes, "\n", 0, $at),
                $this->encoding->value,
                $bytes[$at],
            );
        }
        if ($this->encoding === Encoding::Utf16LE || $this->encoding === Encoding::Utf16BE) {
            if (! mb_check_encoding($bytes, $this->encoding->value)) {
                throw ReadingError::badBytes($line, $this->encoding->value, substr($bytes, -2));
            }
        }

        if (in_array($this->encoding, self::BY_ICONV, true)) {
            $text = @iconv($this->encoding->value, 'UTF-8', $bytes);
            if ($text === false) {
                $this->complainOfIconv($bytes, $line);
            }

            return $text;
        }

        return mb_convert_encoding($bytes, 'UTF-8', $this->encoding->value);
    }

    private function lineByLine(string $bytes, int $line): string
    {
        $lines = explode("\n", $bytes);
        foreach ($lines as $i => $text) {
            if (preg_match('//u', $text) !== 1) {
                $lines[$i] = mb_convert_encoding($text, 'UTF-8', 'Windows-1252');
                $this->switched->add($line + $i);
            }
        }

        return implode("\n", $lines);
    }

    private function complainOfIconv(string $bytes, int $line): never
    {
        foreach (explode("\n", $bytes) as $i => $text) {
            for ($at = 0; $at < strlen($text); $at++) {
                if (@iconv($this->encoding->value, 'UTF-8', $text[$at]) === false) {
                    throw ReadingError::badBytes($line + $i, $this->encoding->value, $text[$at]);
                }
            }
        }
        throw ReadingError::badBytes($line, $this->encoding->value, substr($bytes, 0, 2));
    }

    private function complain(string $bytes, int $line): never
    {
        foreach (explode("\n", $bytes) as $i => $text) {
            if (preg_match('//u', $text) !== 1) {
                preg_match(
                    '/^(?:[\x00-\x7F]|[\xC2-\xDF][\x80-\xBF]|[\xE0-\xEF][\x80-\xBF]{2}|[\xF0-\xF4][\x80-\xBF]{3})*/',
                    $text,
                    $good,
                );
                throw ReadingError::badBytes($line + $i, 'UTF-8', substr($text, strlen($good[0] ?? ''), 2));
            }
        }
        throw ReadingError::badBytes($line, 'UTF-8', substr($bytes, 0, 2));
    }
}
