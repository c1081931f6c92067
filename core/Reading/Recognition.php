<?php

namespace Baggage\Core\Reading;

use Baggage\Core\Reading\Dbase\DbaseFormat;
use Baggage\Core\Reading\FixedWidth\FixedWidthFormat;
use Baggage\Core\Reading\FixedWidth\FixedWidthReader;
use Baggage\Core\Reading\Nested\JsonFormat;
use Baggage\Core\Reading\Nested\JsonRecords;
use Baggage\Core\Reading\Nested\JsonScanner;
use Baggage\Core\Reading\Nested\XmlFormat;
use Baggage\Core\Reading\Nested\XmlRecords;

/** What a file that is no archive seems to be, from its first bytes: how to read it, and why that was taken. */
final readonly class Recognition
{
    /** @param  array<string, string>  $reasons setting → why */
    private function __construct(public ReaderSettings $settings, public array $reasons, public string $part = '')
    {
    }

    /**
     * @param  string  $sample  the first bytes, 64 KiB or more where there are as many
     * @param  bool  $whole  whether the sample is the whole file
     * @return non-empty-list<self> one for each table in it
     *
     * @throws ReadingError when it is plainly something that is not read
     */
    public static function of(string $sample, bool $whole): array
    {
        if ($sample === '') {
            throw ReadingError::empty();
        }
        if (self::isDbase($sample)) {
            return [
                new self(new ReaderSettings(new DbaseFormat), [
                    'kind' => 'it begins with the header of a dBase table',
                ]),
            ];
        }
        $start = ltrim(preg_replace('/^\xEF\xBB\xBF/', '', $sample) ?? '', " \t\r\n");
        if (
            $start !== ''
            && ! str_starts_with($start, '{\\rtf')
            && ($start[0] === '{' || $start[0] === '[')
            && ($found = self::json($start)) !== []
        ) {
            return $found;
        }
        if (preg_match('/^<(?:\?xml|!--|!doctype\s|[A-Za-z_][\w.:-]*[\s>\/])/i', $start) === 1) {
            return self::isWebPage($start) ? throw ReadingError::webPage() : self::xml($start);
        }
        $guess = FormatGuess::of($sample, $whole);
        $text = self::text($sample, $guess->format->encoding);
        $lines = preg_split('/\r\n|\n|\r/', $text) ?: [];
        if (! $whole) {
            array_pop($lines);
        }

        return [
            self::isFixedWidth($lines, $guess)
                ? self::fixedWidth($lines, $guess)
                : new self(new ReaderSettings($guess->format, $guess->layout), $guess->reasons),
        ];
    }

    private static function isWebPage(string $start): bool
    {
        return preg_match('/^(?:<\?xml[^>]*>\s*)?(?:<!doctype html|<html)/i', $start) === 1;
    }

    /** @param  list<string>  $lines */
    private static function fixedWidth(array $lines, FormatGuess $guess): self
    {
        $first = array_values(array_filter($lines, fn ($l) => trim($l) !== ''))[0];
        $header = preg_match('/\d/', $first) !== 1;
        $format = FixedWidthFormat::fromArray([
            'layout' => FixedWidthReader::guess($lines, $header),
            'encoding' => $guess->format->encoding->value,
        ]);

        return new self(new ReaderSettings($format, new Layout($header)), [
            'layout' => 'no delimiter occurs in all lines, and all lines have blanks in the same places',
            'encoding' => $guess->reasons['encoding'],
            'header' => $header
                ? 'the first line holds no digit'
                : 'the first line holds digits, like the lines below it',
        ]);
    }

    private static function isDbase(string $sample): bool
    {
        if (
            strlen($sample) < 65
            || ! in_array(ord($sample[0]), [0x03, 0x30, 0x31, 0x32, 0x43, 0x63, 0x83, 0x8B, 0xCB, 0xF5], true)
        ) {
            return false;
        }
        /** @var array{h: int, r: int} $sizes */
        $sizes = unpack('vh/vr', substr($sample, 8, 4));

        return $sizes['h'] >= 65
            && $sizes['r'] > 1
            && ord($sample[2]) >= 1
            && ord($sample[2]) <= 12
            && ord($sample[3]) <= 31
            && preg_match('/^[\w ]{1,10}\x00/', substr($sample, 32, 11)) === 1;
    }

    /** @return list<self> */
    private static function json(string $start): array
    {
        $first = strtok($start, "\n") ?: '';
        if ($start[0] === '{' && json_decode($first) !== null && preg_match('/^[^\n]*\n\s*(?:\{|$)/', $start) === 1) {
            $record = JsonRecords::record($first, 1);

            return self::withLists(new JsonFormat(true), 'JSON lines', 'each line is a JSON object', $record);
        }
        $paths = JsonScanner::of([$start])->lists();
        if ($paths === [] && $start[0] === '[') {
            $paths = [''];
        }
        // Records lie nearest to the root.
        $found = [];
        foreach (array_slice($paths, 0, 12) as $path) {
            $record = [];
            try {
                foreach (
                    JsonScanner::of([$start])->records($path === '' ? [] : explode('.', $path)) as $line => $json
                ) {
                    $record += JsonRecords::record($json, $line);
                }
            } catch (ReadingError) {
                // The sample ends here.
            }
            array_push(
                $found,
                ...self::withLists(
                    new JsonFormat(false, $path),
                    $path === '' ? 'the document' : $path,
                    'a list of objects stands there',
                    $record,
                ),
            );
        }

        return $found !== []
            ? $found
            : [new self(new ReaderSettings(new JsonFormat), ['records' => 'the document is one object'])];
    }

    /**
     * @param  array<array-key, mixed>  $record
     * @return non-empty-list<self>
     */
    private static function withLists(JsonFormat|XmlFormat $format, string $name, string $why, array $record): array
    {
        $found = [new self(new ReaderSettings($format), ['records' => $why], $name)];
        $key = (string) (array_key_first(array_filter($record, fn ($v) => $v !== null && ! is_array($v))) ?? '');
        foreach ($record as $list => $value) {
            if (is_array($value) && array_is_list($value) && $value !== []) {
                $carry = $key === '' ? [] : [$key];
                $inner = $format instanceof JsonFormat
                    ? new JsonFormat($format->lines, $format->records, (string) $list, $carry)
                    : new XmlFormat($format->records, (string) $list, $carry);
                $found[] = new self(
                    new ReaderSettings($inner),
                    [
                        'list' => 'its records hold a list there',
                        'carry' => 'the first column of the record, so that its rows find their parent',
                    ],
                    "$name, list $list",
                );
            }
        }

        return $found;
    }

    /** @return non-empty-list<self> */
    private static function xml(string $start): array
    {
        $found = [];
        foreach (array_slice(XmlRecords::repeated($start), 0, 12) as $path) {
            $record = [];
            try {
                foreach ((new XmlRecords(new XmlFormat($path), fn () => str_split($start, 4096)))->each() as $element) {
                    foreach ($element as $key => $value) {
                        $record[$key] = isset($record[$key]) && is_array($record[$key]) && array_is_list($record[$key])
                            ? $record[$key]
                            : $value;
                    }
                }
            } catch (ReadingError) {
                // The sample ends here.
            }
            array_push($found, ...self::withLists(new XmlFormat($path), $path, 'this element is repeated', $record));
        }

        return $found !== []
            ? $found
            : throw ReadingError::broken(
                'This seems to be XML, but no element of it is repeated, so it holds no records.',
            );
    }

    private static function text(string $sample, Encoding $encoding): string
    {
        $end = strrpos($sample, "\n");
        $text = '';
        try {
            foreach (
                (new Decoder($encoding))->decode([$end === false ? $sample : substr($sample, 0, $end + 1)]) as $part
            ) {
                $text .= $part;
            }
        } catch (ReadingError) {
            // The preview says where.
        }

        return $text;
    }

    /** @param  list<string>  $lines */
    private static function isFixedWidth(array $lines, FormatGuess $guess): bool
    {
        $lines = array_values(array_filter($lines, fn ($l) => trim($l) !== ''));
        if (count($lines) < 3) {
            return false;
        }
        $delimited = count(array_filter($lines, fn ($l) => str_contains($l, $guess->format->delimiter)));
        if ($delimited * 10 > count($lines) * 9) {
            return false;
        }

        return substr_count(FixedWidthReader::guess($lines, false), "\n") >= 1;
    }
}
