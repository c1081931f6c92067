<?php

namespace Tests\Foreign;

use App\Freezing\Look;
use App\Looking\Looks;
use App\Reading\Part;
use Baggage\Core\Reading\FixedWidth\FixedColumn;
use Baggage\Core\Reading\FixedWidth\FixedWidthFormat;
use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\ReaderSettings;
use PHPUnit\Framework\Attributes\DataProvider;
use Tests\TestCase;

/** Small files over limits made small for them: every limit is told by its own words, in every kind of file that has it, with 32 MB. */
final class LimitsTest extends TestCase
{
    protected function setUp(): void
    {
        parent::setUp();
        Limits::set(new Limits(
            line: 40_000,
            cell: 5_000,
            record: 20_000,
            columns: 50,
            depth: 8,
            tag: 2_000,
            attributes: 30,
            part: 60_000,
            old: 20_000,
            archive: 400_000,
            harmless: 30_000,
            ratio: 20,
            members: 30,
            tables: 5,
        ));
    }

    protected function tearDown(): void
    {
        Limits::set(new Limits(...config('baggage.limits')));
        parent::tearDown();
    }

    /**
     * FS7, FS9.
     *
     * @return iterable<string, array{string, string, 2?: ReaderSettings}> bytes, what is said, how it is to be read
     */
    public static function files(): iterable
    {
        $cell = str_repeat('x', 6_000);
        $line = str_repeat('x', 50_000);
        yield 'a line of text' => ["a,b\n$line\n", 'A line is longer than 40 kB'];
        $wide = mb_convert_encoding("\u{FEFF}a,b\n$line\n", 'UTF-16LE', 'UTF-8');
        yield 'a line of text in UTF-16' => [$wide, 'A line is longer than 40 kB'];
        yield 'a line without an end' => [$line, 'A line is longer than 40 kB'];
        yield 'a cell of text' => ["a,b\n1,$cell\n", 'column 2 is larger than 5,000 bytes'];
        yield 'a quoted cell' => ["a,b\n1,2\n\"$cell\",1\n", 'Row 2: what stands in column 1 is larger than 5,000 bytes'];
        yield 'a quote that is never closed' => ["a,b\n1,\"".str_repeat("x\n", 15_000), 'is never closed'];
        yield from self::otherTexts($cell, $line);
        yield from self::nested($cell);
        yield from self::workbooks($cell);
        yield from self::databasesAndArchives($cell);
    }

    /** @return iterable<string, array{string, string, 2?: ReaderSettings}> */
    private static function otherTexts(string $cell, string $line): iterable
    {
        $cells = fn (string $of, int $n) => implode(',', array_fill(0, $n, $of));
        yield 'columns of text' => [$cells('a', 60)."\n".$cells('1', 60)."\n", '60 columns; 50 can be taken'];
        yield 'a line of fixed widths' => ["$line\n", 'A line is longer than 40 kB', self::fixed(10)];
        yield 'a cell of fixed widths' => ["x\n".str_repeat('x', 9_000)."\n", 'column 1 is larger than 5,000 bytes', self::fixed(8_000)];
        yield 'a line of JSON lines' => ["{\"a\":1}\n{\"a\":\"$line\"}\n", 'A line is longer than 40 kB'];
        yield 'a cell of JSON lines' => ["{\"a\":1}\n{\"a\":\"$cell\"}\n", 'Row 2: what stands in column 1 is larger'];
    }

    /** @return iterable<string, array{string, string}> */
    private static function nested(string $cell): iterable
    {
        $cells = fn (string $of, int $n) => implode(',', array_fill(0, $n, $of));
        $keys = fn (int $n) => implode(',', array_map(fn ($i) => "\"c$i\":1", range(1, $n)));
        yield 'a record of JSON' => ['[{"a":1},{"a":['.$cells('"y"', 12_000).']}]', 'is larger than 20 kB'];
        yield 'a cell of JSON' => ["[{\"a\":\"$cell\"}]", 'column 1 is larger than 5,000 bytes'];
        yield 'JSON that is deep' => ['[{"a":'.str_repeat('[', 12).str_repeat(']', 12).'}]', 'nested more than 8 deep'];
        yield 'members of JSON' => ["[{{$keys(60)}}]", '60 columns; 50 can be taken'];
        yield 'XML that is deep' => ['<r>'.str_repeat('<j>', 12).'x'.str_repeat('</j>', 12).'</r>', 'nested more than 8 deep'];
        yield 'attributes of XML' => [self::attributes(40), 'has 40 attributes; 30 can be taken'];
        yield 'a tag of XML' => [self::attributes(400), 'is longer than 2,000 bytes'];
        yield 'a record of XML' => ['<r><j/><j/><j>'.str_repeat('<k>1</k>', 4_000).'</j></r>', 'A record is larger than 20 kB'];
        yield 'a cell of XML' => ["<r><j><k>$cell</k></j><j><k>1</k></j></r>", 'column 1 is larger than 5,000 bytes'];
    }

    /** @return iterable<string, array{string, string}> */
    private static function workbooks(string $cell): iterable
    {
        $row = '<row r="1"><c r="A1" t="inlineStr"><is><t>a</t></is></c></row>';
        $of = fn (string $more) => HostileFilesTest::workbook([], $row.$more);
        $noise = (new \Random\Randomizer(new \Random\Engine\Mt19937(7)))->getBytes(16_000);
        $large = "<row r=\"2\"><c r=\"A2\" t=\"inlineStr\"><is><t>$cell</t></is></c></row>";
        yield 'a cell of a workbook' => [$of($large), 'column 1 is larger'];
        yield 'a row of a workbook' => [$of('<row r="2">'.base64_encode($noise.$noise).'</row>'), 'larger than 20 kB'];
        yield 'columns of a workbook' => [$of('<row r="2"><c r="CZ2"><v>1</v></c></row>'), 'column 104 of the sheet; 50 columns'];
        yield 'columns of a workbook written otherwise' => [
            $of('<row r="2"><c r="CZ2"><x/><v>1</v></c></row>'),
            'column 104 of the sheet; 50 columns can be taken',
        ];
        yield 'a part of a workbook' => [
            HostileFilesTest::workbook(['xl/workbook.xml' => '<workbook>'.base64_encode(str_repeat($noise, 3)).'</workbook>']),
            'larger than 60 kB',
        ];
        yield 'an old workbook' => ["\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1".$noise.$noise, 'may have 20 kB at most'];
        yield 'an old workbook of noise' => ["\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1".substr($noise, 0, 9_000), 'The workbook cannot be read'];
    }

    /** @return iterable<string, array{string, string}> */
    private static function databasesAndArchives(string $cell): iterable
    {
        $noise = (new \Random\Randomizer(new \Random\Engine\Mt19937(7)))->getBytes(16_000);
        yield 'a cell of SQLite' => [
            HostileFilesTest::sqlite("CREATE TABLE t (a, b); INSERT INTO t VALUES (1, '$cell')"),
            'column 2 is larger than 5,000 bytes',
        ];
        yield 'columns of SQLite' => [
            HostileFilesTest::sqlite('CREATE TABLE t (c'.implode(', c', range(1, 60)).'); INSERT INTO t (c1) VALUES (1)'),
            '60 columns; 50 can be taken',
        ];
        $member = "a,b\n".base64_encode($noise)."\n";
        $many = HostileFilesTest::zip(array_fill_keys(range(100, 140), 'a'));
        yield 'members of an archive' => [$many, '41 files; 30 can be taken'];
        yield 'an archive' => [HostileFilesTest::zip(array_fill_keys(range('a', 'x'), $member)), 'in all; 400 kB can be taken'];
        yield 'an archive that is packed too well' => [
            HostileFilesTest::zip(array_fill_keys(range('a', 'p'), str_repeat("a,b\n", 6_000))),
            'none of it is unpacked',
        ];
        yield 'a member that is packed too well' => [
            HostileFilesTest::zip(['a' => str_repeat("a,b\n", 12_000), 'b' => base64_encode($noise)]),
            'so it is not unpacked',
        ];
        yield 'tables of an archive' => [HostileFilesTest::zip(array_fill_keys(range('a', 'h'), "a,b\n1,2\n")), '5 can be taken at once'];
    }

    private static function fixed(int $width): ReaderSettings
    {
        return new ReaderSettings(new FixedWidthFormat([new FixedColumn('a', 1, $width)]));
    }

    private static function attributes(int $n): string
    {
        return '<r>'.str_repeat('<j '.implode(' ', array_map(fn ($i) => "a$i=\"1\"", range(1, $n))).'/>', 2).'</r>';
    }

    #[DataProvider('files')]
    public function test_a_limit(string $bytes, string $says, ?ReaderSettings $settings = null): void
    {
        $path = self::work('limit.bin');
        file_put_contents($path, $bytes);
        memory_reset_peak_usage();
        $before = memory_get_usage();
        $found = $settings === null
            ? Looks::done(Look::class, ['what' => 'parts', 'path' => $path, 'name' => 'limit.bin'])
            : ['is' => [(new Part('limit', $settings))->toArray()]];
        $said = (string) ($found['refused'] ?? '');
        foreach ($found['is'] ?? [] as $is) {
            $part = Part::fromArray($is);
            $said .= " $part->refused";
            if ($part->settings !== null) {
                $given = ['what' => 'rows', 'path' => $path, 'settings' => $part->settings->toArray(), 'count' => 50];
                $rows = Looks::done(Look::class, $given);
                $said .= ' '.($rows['refused'] ?? $rows['is']['error']);
            }
        }
        self::assertStringContainsString($says, $said);
        self::assertLessThan(32 << 20, memory_get_peak_usage() - $before);
    }

    /** Whatever may be set stands in the one file, and nothing else does. */
    public function test_the_limits_stand_in_the_configuration(): void
    {
        self::assertEquals(new Limits, new Limits(...config('baggage.limits')));
        self::assertSame(array_keys(get_object_vars(new Limits)), array_keys(config('baggage.limits')));
    }
}
