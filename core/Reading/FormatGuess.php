<?php

namespace Baggage\Core\Reading;

/** What a file seems to be, from its first bytes, each guess with its reason. */
final readonly class FormatGuess
{
    private const SIGNATURES = [
        "\x89PNG" => 'a PNG picture',
        "\xFF\xD8\xFF" => 'a JPEG picture',
        'GIF8' => 'a GIF picture',
        '%PDF' => 'a PDF document',
        "PK\x03\x04" => 'a zip archive or a workbook (.xlsx, .ods)',
        "\xD0\xCF\x11\xE0" => 'an old binary workbook or document (.xls, .doc)',
        "\x1F\x8B" => 'a gzip archive',
        'SQLite format 3' => 'an SQLite database',
        "\x7FELF" => 'a program',
        'MZ' => 'a program',
        '{\\rtf' => 'an RTF document',
    ];

    /** @param  array<string, string>  $reasons delimiter, encoding and header → why */
    private function __construct(public DelimitedFormat $format, public Layout $layout, public array $reasons)
    {
    }

    /**
     * @param  string  $sample  the first bytes of the file, 64 KiB or more where there are as many
     *
     * @throws ReadingError when the file is empty or plainly something else
     */
    public static function of(string $sample, bool $whole = false): self
    {
        if ($sample === '') {
            throw ReadingError::empty();
        }
        foreach (self::SIGNATURES as $start => $kind) {
            if (
                str_starts_with($sample, $start)
                && ($start !== 'MZ' || str_contains(substr($sample, 0, 512), "\x00"))
            ) {
                throw ReadingError::notText($kind);
            }
        }
        [$encoding, $why] = self::encoding($sample, $whole);
        if ($encoding !== Encoding::Utf16LE && $encoding !== Encoding::Utf16BE && substr_count($sample, "\x00") > 0) {
            throw ReadingError::notText('a binary file (it holds NUL bytes)');
        }
        $text = '';
        foreach ((new Decoder($encoding))->decode([self::cut($sample, $encoding)]) as $part) {
            $text .= $part;
        }
        [$delimiter, $whyDelimiter] = self::delimiter($text);
        [$skip, $whySkip] = self::titleLines($text, $delimiter);
        [$header, $whyHeader] = self::header($text, $delimiter, $skip);

        return new self(new DelimitedFormat($delimiter, '"', $encoding), new Layout($header, $skip), [
            'encoding' => $why,
            'delimiter' => $whyDelimiter,
            'header' => $whyHeader,
            'skip' => $whySkip,
        ]);
    }

    /** @return array{Encoding, string} */
    private static function encoding(string $sample, bool $whole): array
    {
        $wide = self::wide($sample);
        if ($wide !== null) {
            return $wide;
        }
        if (preg_match('/[\x80-\xFF]/', $sample) !== 1) {
            return [Encoding::Utf8, 'the first '.number_format(strlen($sample)).' bytes are plain ASCII'];
        }
        // A sample may end inside a character.
        if (preg_match('//u', $whole ? $sample : self::cut($sample, Encoding::Utf8)) === 1) {
            return [Encoding::Utf8, 'all bytes above 127 form valid UTF-8'];
        }
        $valid = preg_match_all('/(?:[\xC2-\xDF][\x80-\xBF]|[\xE0-\xEF][\x80-\xBF]{2})/', $sample);
        if ($valid > 3 && $valid * 4 > preg_match_all('/[\x80-\xFF]/', $sample)) {
            return [
                Encoding::Mixed,
                'most lines are UTF-8, but not all: two programs seem to have written into this file',
            ];
        }
        // Letters of western languages lie at 0xC0-0xFF in Windows-1252 and mostly at 0x80-0xA5 in the DOS pages.
        $ansi = preg_match_all('/[\xC0-\xFF]/', $sample);
        $dos = preg_match_all('/[\x80-\xA5]/', $sample);
        if ($dos > $ansi) {
            return [Encoding::Dos850, 'not UTF-8, and its accented letters lie where code page 850 has them'];
        }

        return [Encoding::Windows1252, 'not UTF-8, and its accented letters lie where Windows-1252 has them'];
    }

    /** @return array{Encoding, string}|null what a byte order mark or the place of zero bytes says */
    private static function wide(string $sample): ?array
    {
        foreach ([Encoding::Utf8, Encoding::Utf16LE, Encoding::Utf16BE] as $encoding) {
            if (str_starts_with($sample, $encoding->mark())) {
                return [$encoding, 'the file begins with the byte order mark of '.$encoding->value];
            }
        }
        $start = substr($sample, 0, 2000);
        $odd = $even = 0;
        for ($i = 0, $n = strlen($start); $i < $n; $i++) {
            if ($start[$i] === "\x00") {
                $i % 2 ? $odd++ : $even++;
            }
        }

        return match (true) {
            $n > 8 && $odd > $n / 4 => [Encoding::Utf16LE, 'every second byte is zero'],
            $n > 8 && $even > $n / 4 => [Encoding::Utf16BE, 'every second byte is zero'],
            default => null,
        };
    }

    private static function cut(string $sample, Encoding $encoding): string
    {
        $end = strrpos($sample, "\n");
        if ($end === false || $encoding === Encoding::Utf16LE || $encoding === Encoding::Utf16BE) {
            return $encoding === Encoding::Utf8 ? mb_strcut($sample, 0, strlen($sample), 'UTF-8') : $sample;
        }

        return substr($sample, 0, $end + 1);
    }

    /** @return array{non-empty-string, string} */
    private static function delimiter(string $text): array
    {
        $lines = array_slice(
            array_values(array_filter(preg_split('/\r\n|\n|\r/', $text) ?: [], fn ($l) => trim($l) !== '')),
            0,
            60,
        );
        $best = [',', 0.0, 0];
        foreach ([',' => 1.0, ';' => 1.0, "\t" => 1.05, '|' => 1.05] as $delimiter => $weight) {
            $counts = [];
            foreach ($lines as $line) {
                $counts[] = substr_count((string) preg_replace('/"[^"]*"/', '', $line), $delimiter);
            }
            $tally = array_count_values($counts);
            arsort($tally);
            $usual = (int) array_key_first($tally);
            if ($usual === 0) {
                continue;
            }
            // How regular the lines are counts most, then how many columns come out.
            $score = $weight * ($tally[$usual] / count($lines)) + min($usual, 50) / 500;
            if ($score > $best[1]) {
                $best = [$delimiter, $score, $usual];
            }
        }
        $name = match ($best[0]) {
            "\t" => 'a tab',
            ';' => 'a semicolon',
            '|' => 'a bar',
            default => 'a comma',
        };

        return $best[2] === 0
            ? [',', 'no delimiter occurs in the first lines, so this reads as one column']
            : [$best[0], "most lines hold $name {$best[2]} times"];
    }

    /**
     * Lines above the table: they hold fewer delimiters than the lines below agree on, or as many with next to nothing between them,
     * as spreadsheets write their title rows.
     *
     * @param  non-empty-string  $delimiter
     * @return array{int, string}
     */
    private static function titleLines(string $text, string $delimiter): array
    {
        $delimiters = $filled = [];
        foreach (array_slice(preg_split('/\r\n|\n|\r/', $text) ?: [], 0, 60) as $line) {
            $line = (string) preg_replace('/"[^"]*"/', 'x', $line);
            $delimiters[] = substr_count($line, $delimiter);
            $filled[] = count(array_filter(explode($delimiter, $line), fn ($c) => trim($c) !== ''));
        }
        $tally = array_count_values(array_filter($delimiters));
        arsort($tally);
        $usual = (int) array_key_first($tally);
        $some = array_values(array_filter($filled));
        sort($some);
        $few = max(1, intdiv($some[intdiv(count($some), 2)] ?? 0, 4));
        $first = 0;
        while (isset($delimiters[$first]) && ($usual >= $delimiters[$first] * 2 || $filled[$first] <= $few)) {
            $first++;
        }
        if ($usual < 2 || $first === 0 || $first > 20 || $first === count($delimiters)) {
            return [0, 'title lines'];
        }

        return [
            $first,
            $first === 1
                ? 'the first line fills fewer cells than those below'
                : "the first $first lines fill fewer cells than those below",
        ];
    }

    /** @return array{bool, string} */
    private static function header(string $text, string $delimiter, int $skip): array
    {
        $reader = new DelimitedReader(new DelimitedFormat($delimiter), new Layout(true, $skip));
        $rows = [];
        try {
            foreach ($reader->rows([$text]) as $row) {
                $rows[] = $row->cells;
                if (count($rows) === 20) {
                    break;
                }
            }
        } catch (ReadingError) {
            // The preview says so; the first lines are enough here.
        }
        $first = $rows[0] ?? [];
        if (count($rows) < 2) {
            return [true, 'there is only one line'];
        }
        $numeric = fn (?string $cell) => preg_match('/^[-+]?[\d.,\/: ]+-?$/', trim((string) $cell)) === 1;
        if (array_filter($first, $numeric) !== []) {
            return [false, 'the first line holds numbers or dates, like the lines below it'];
        }

        return [true, 'the first line holds words only'];
    }
}
