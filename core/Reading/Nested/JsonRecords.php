<?php

namespace Baggage\Core\Reading\Nested;

use Baggage\Core\Reading\Decoder;
use Baggage\Core\Reading\Encoding;
use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reading\TextLines;
use Brick\Math\BigDecimal;

/** The records of a JSON text. Numbers keep the digits they are written with. */
final class JsonRecords implements Records
{
    /** @param  \Closure(): iterable<string>  $open  gives the bytes from the beginning */
    public function __construct(private readonly JsonFormat $format, private readonly \Closure $open)
    {
    }

    public function each(): \Generator
    {
        $text = (new Decoder(Encoding::Utf8))->decode(($this->open)());
        if (! $this->format->lines) {
            $path = $this->format->records === '' ? [] : explode('.', $this->format->records);
            foreach (JsonScanner::of($text)->records($path) as $line => $json) {
                yield $line => self::record($json, $line);
            }

            return;
        }
        $line = 0;
        foreach ((new TextLines)->split($text) as $json) {
            $line++;
            if (trim($json) !== '') {
                $record = self::record($json, $line);
                foreach ($this->format->records === '' ? [] : explode('.', $this->format->records) as $key) {
                    $record = is_array($record[$key] ?? null)
                        ? $record[$key]
                        : throw ReadingError::broken("Line $line: its record has no \"$key\".");
                }
                yield $line => $record;
            }
        }
    }

    /** A number as digits: powers of ten are written out, but for those of a size nobody records. */
    private static function plain(string $number): string
    {
        return strpbrk($number, 'eE') === false || preg_match('/[eE][+-]?0*\d{3}/', $number) === 1
            ? $number
            : (string) BigDecimal::of($number);
    }

    /** @return array<array-key, mixed> */
    public static function record(string $json, int $line): array
    {
        $deepest = max(1, Limits::now()->depth);
        try {
            $value = json_decode($json, true, $deepest, JSON_THROW_ON_ERROR | JSON_BIGINT_AS_STRING);
        } catch (\JsonException $e) {
            throw ReadingError::broken('Line '.number_format($line).($e->getCode() === JSON_ERROR_DEPTH
                ? ": what stands there is nested more than $deepest deep."
                : ' is not JSON: '.lcfirst($e->getMessage()).'.'));
        }
        // Decoded once more with its numbers as text, so that 12.50 stays 12.50 and no digit is lost.
        if (preg_match('/\d[.eE]|\d{16}|-0/', $json) === 1) {
            $quoted = preg_replace_callback(
                '/"(?:[^"\\\\]|\\\\.)*+"(*SKIP)(*FAIL)|-?\d+(?:\.\d+)?(?:[eE][+-]?\d+)?/s',
                fn (array $m) => '"'.self::plain($m[0]).'"',
                $json,
            );
            $value = $quoted === null ? $value : json_decode($quoted, true, $deepest, JSON_THROW_ON_ERROR);
        }

        return is_array($value) ? $value : ['value' => $value];
    }
}
