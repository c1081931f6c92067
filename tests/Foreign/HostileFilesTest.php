<?php

namespace Tests\Foreign;

use App\Freezing\Incoming;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\Role;
use App\Models\Take;
use App\Support\WorkbookFile;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use Tests\TestCase;
use ZipArchive;

/** Files that are not what they should be: each a specific message, no half-frozen extract, and the worker goes on. */
final class HostileFilesTest extends TestCase
{
    /** @param  array<string, string>  $files */
    public static function zip(array $files, int $method = ZipArchive::CM_DEFLATE): string
    {
        $path = tempnam(sys_get_temp_dir(), 'zip') ?: '';
        $zip = new ZipArchive;
        $zip->open($path, ZipArchive::OVERWRITE);
        foreach ($files as $name => $bytes) {
            $zip->addFromString($name, $bytes);
            $zip->setCompressionName($name, $method);
        }
        $zip->close();
        $bytes = (string) file_get_contents($path);
        unlink($path);

        return $bytes;
    }

    /** @param  array<string, string>  $replace  part → its text instead */
    public static function workbook(
        array $replace = [],
        string $cells = '<row r="1"><c r="A1" t="inlineStr"><is><t>a</t></is></c></row><row r="2"><c r="A2"><v>1</v></c></row>',
    ): string {
        $main = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
        $rel = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';

        return self::zip(
            $replace + [
                '[Content_Types].xml' => '<Types/>',
                '_rels/.rels' => "<Relationships><Relationship Id=\"r1\" Type=\"$rel/officeDocument\" "
                    .'Target="xl/workbook.xml"/></Relationships>',
                'xl/workbook.xml' => "<workbook xmlns=\"$main\" xmlns:r=\"$rel\"><sheets><sheet name=\"S\" "
                    .'sheetId="1" r:id="r1"/></sheets></workbook>',
                'xl/_rels/workbook.xml.rels' => '<Relationships><Relationship Id="r1" Target="worksheets/sheet1.xml"/></Relationships>',
                'xl/worksheets/sheet1.xml' => "<worksheet xmlns=\"$main\"><sheetData>$cells</sheetData></worksheet>",
            ],
        );
    }

    public static function sqlite(string $sql): string
    {
        $path = tempnam(sys_get_temp_dir(), 'lite') ?: '';
        (new \PDO("sqlite:$path"))->exec($sql);
        $bytes = (string) file_get_contents($path);
        unlink($path);

        return $bytes;
    }

    /**
     * Name → bytes, what is said, settings other than those guessed.
     *
     * @return iterable<string, array{string, string, 2?: array<string, mixed>}>
     */
    public static function files(): iterable
    {
        $long = str_repeat('x', 10_000_000);
        yield 'a cell of 10 MB' => ["a,b\n1,$long\n", 'frozen 1'];
        $half = str_repeat('y', 9_000_000);
        yield 'a row of 18 MB' => ["a,b\n$half,$half\n", 'MB'];
        yield '10,000 columns' => [
            implode(',', array_map(fn ($i) => "c$i", range(1, 10_000)))."\n".implode(',', range(1, 10_000))."\n",
            'The header has 10,000 columns; 4,096 can be taken',
        ];
        yield 'NUL bytes' => ["a,b\n\0\0,1\n", 'NUL bytes'];
        yield 'a GIF' => ['GIF89a...', 'a GIF picture'];
        yield 'a JPEG' => ["\xFF\xD8\xFF\xE0", 'a JPEG picture'];
        yield 'a PDF' => ["%PDF-1.7\n", 'a PDF document'];
        yield 'an RTF letter' => ['{\\rtf1 hello}', 'an RTF document'];
        yield 'a program' => ["\x7FELF\x02\x01\x01", 'a program'];
        yield 'a locked workbook' => [
            "\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1".str_repeat("\0", 1_016).implode("\0", str_split('EncryptedPackage'))
            ."\0",
            'locked with a password',
        ];
        yield 'gzip' => ["\x1F\x8B\x08\x00", 'a gzip archive'];
        yield 'a web page' => ['<!DOCTYPE html><html><body>Log in</body></html>', 'This is a web page'];
        yield 'only line breaks' => ["\n\n\n", 'empty'];
        yield 'only a byte order mark' => ["\xEF\xBB\xBF", 'empty'];
        yield 'quote closed late' => [
            "a,b\n\"x".str_repeat("\n1,2", 500)."\n",
            'The quote opened in line 2 is never closed',
        ];
        yield 'lone carriage returns' => ["a,b\r1,2\r3,4\r", 'frozen 2'];
        yield 'same header everywhere' => [str_repeat('a,', 50)."a\n".str_repeat('1,', 50)."1\n", 'frozen 1'];
        yield 'formulas as text' => ["a,b\n=cmd|' /C calc'!A0,@SUM(1)\n", 'frozen 1'];
        yield 'script as text' => ["a,b\n<script>alert(1)</script>,'; DROP TABLE users; --\n", 'frozen 1'];
        yield 'wrong encoding stated' => ["a,b\n1,\xFF\xFE\n", 'not UTF-8', ['kind' => 'delimited']];
        yield 'a delimiter of two characters' => [
            "a,b\n1,2\n",
            'The delimiter is one character',
            ['kind' => 'delimited', 'delimiter' => '||'],
        ];
        yield 'an unknown encoding' => [
            "a,b\n1,2\n",
            'Unknown encoding',
            ['kind' => 'delimited', 'encoding' => 'EBCDIC'],
        ];
        yield 'rows beyond the end' => ["a,b\n1,2\n", 'no rows below it', ['kind' => 'delimited', 'first_row' => 50]];
        yield 'columns beyond the end' => [
            "a,b\n1,2\n",
            'The sheet or text has no cells in these columns',
            ['kind' => 'delimited', 'columns' => 'X-Z'],
        ];

        yield from self::archives();
    }

    private static function archives(): iterable
    {
        yield 'an empty zip' => ["PK\x05\x06".str_repeat("\0", 18), 'The zip archive is empty'];
        yield 'a zip cut off' => [substr(self::zip(['a.csv' => "a,b\n1,2\n"]), 0, 60), 'damaged or cut off'];
        yield 'a zip bomb' => [self::zip(['a.csv' => str_repeat("0,0\n", 16_000_000)]), 'No real export does that'];
        yield 'a zip in a zip' => [
            self::zip(['in.zip' => self::zip(['a.csv' => "a,b\n1,2\n"])]),
            'An archive inside an archive',
        ];
        yield 'a zip of pictures' => [self::zip(['p.png' => "\x89PNG\r\n"]), 'a PNG picture'];
        yield 'a zip with a path upwards' => [self::zip(['../../etc/cron.d/x.csv' => "a,b\n1,2\n"]), 'frozen 1'];
        $good = self::zip([
            'a.csv' => "a,b\n".implode('', array_map(fn ($i) => md5((string) $i).','.$i."\n", range(1, 400))),
        ]);
        yield 'a zip with a flipped byte' => [substr_replace($good, chr(ord($good[900]) ^ 0x55), 900, 1), 'damaged'];
        yield 'a zipped text' => [self::zip(['deep/er/a.csv' => "a;b\n1;2\n"]), 'frozen 1'];

        yield from self::workbooks();
    }

    private static function workbooks(): iterable
    {
        yield 'a workbook without workbook' => [
            self::zip(['[Content_Types].xml' => '<Types/>', 'x' => 'y']),
            'no workbook part',
        ];
        yield 'a workbook with a document type' => [
            self::workbook([
                'xl/workbook.xml' => '<!DOCTYPE x [<!ENTITY e SYSTEM "file:///etc/passwd">]><workbook>&e;</workbook>',
            ]),
            'declares a document type',
        ];
        yield 'a sheet with a document type' => [
            self::workbook([
                'xl/worksheets/sheet1.xml' => '<!DOCTYPE x [<!ENTITY e "x">]><worksheet><sheetData/></worksheet>',
            ]),
            'declares a document type',
        ];
        yield 'a workbook with broken XML' => [
            self::workbook(['xl/workbook.xml' => '<workbook><sheets>']),
            'is damaged',
        ];
        yield 'a sheet cut off' => [
            self::workbook([
                'xl/worksheets/sheet1.xml' => '<worksheet><sheetData><row r="1"><c r="A1"><v>1</v></c></row><row r="2"><c r="A2"><v>',
            ]),
            'cut off after row 1',
        ];
        yield from self::otherWorkbooks();
    }

    private static function otherWorkbooks(): iterable
    {
        yield 'a sheet with other things in a row' => [
            self::workbook([], '<row r="1"><c r="A1"><v>1</v></row>'),
            'no well-formed XML',
        ];
        yield 'a cell that names no text' => [
            self::workbook([], '<row r="1"><c r="A1" t="s"><v>7</v></c></row>'),
            'names the text number 7',
        ];
        yield 'an empty sheet' => [self::workbook([], ''), 'The sheet is empty'];
        yield 'a sheet written otherwise' => [
            self::workbook([
                'xl/worksheets/sheet1.xml' => "<?xml version='1.0'?><x:worksheet xmlns:x='u'><x:sheetData>\n<x:row "
                    ."r='1'>\n<x:c t='str' r='A1'><x:v>a&amp;b</x:v></x:c></x:row>"
                    .'<x:row><x:c><x:v><![CDATA[5]]></x:v></x:c></x:row></x:sheetData></x:worksheet>',
            ]),
            'frozen 1',
        ];
        yield 'no sheet of that name' => [
            self::workbook(),
            'no sheet "Other"; it has S',
            ['kind' => 'workbook', 'sheet' => 'Other'],
        ];
        yield 'an old workbook cut off' => [
            "\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1".str_repeat("\0", 40),
            'The workbook cannot be read',
        ];

        yield from self::nestedText();
    }

    private static function nestedText(): iterable
    {
        yield 'JSON cut off' => ['[{"a":1},{"a":2', 'cut off'];
        yield 'JSON with no list' => ['{"a":1}', 'frozen 1'];
        yield 'JSON lines with a bad line' => ["{\"a\":1}\n{\"a\":2}\n{a:3}\n", 'Line 3 is not JSON'];
        yield 'JSON nested a hundred deep' => [
            '[{"a":'.str_repeat('[', 100).str_repeat(']', 100).'}]',
            'nested more than 64 deep',
        ];
        yield 'XML with entities' => [
            '<?xml version="1.0"?><!DOCTYPE r [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><r><j>&b;</j><j/></r>',
            'declares entities',
        ];
        yield 'XML cut off' => ['<r><j>1</j><j>2</j><j>', 'well-formed'];
        yield 'XML without records' => ['<r>text</r>', 'frozen 1'];

        yield from self::databases();
    }

    private static function databases(): iterable
    {
        yield 'SQLite cut off' => [
            substr(self::sqlite('CREATE TABLE t (a, b); INSERT INTO t VALUES (1, 2)'), 0, 5000),
            'damaged',
        ];
        yield 'SQLite without tables' => [
            self::sqlite('PRAGMA user_version = 3; CREATE TABLE t (a); DROP TABLE t'),
            'no table in this file',
        ];
        yield 'an empty table' => [self::sqlite('CREATE TABLE t (a, b)'), 'There are no rows to read here'];
        yield 'bytes in a table' => [
            self::sqlite("CREATE TABLE t (a, b); INSERT INTO t VALUES (x'00ff', 'ø')"),
            'frozen 1',
        ];
        yield 'a SELECT that writes' => [
            self::sqlite('CREATE TABLE t (a); INSERT INTO t VALUES (1)'),
            'Sources are only read',
            ['kind' => 'database', 'sql' => 'WITH x AS (SELECT 1) DELETE FROM t'],
        ];
        yield 'a SELECT with a mistake' => [
            self::sqlite('CREATE TABLE t (a); INSERT INTO t VALUES (1)'),
            'no such column',
            ['kind' => 'database', 'sql' => 'SELECT nope FROM t'],
        ];
        yield 'a table that is not there' => [
            self::sqlite('CREATE TABLE t (a); INSERT INTO t VALUES (1)'),
            'no table or view "u". It has t',
            ['kind' => 'database', 'table' => 'u'],
        ];
        yield 'dBase cut off' => [
            substr(
                "\x03\x62\x07\x1A\x05\0\0\0\x41\0\x05\0".str_repeat("\0", 20)."NAME\0\0\0\0\0\0\0C\0\0\0\0\x04"
                    .str_repeat("\0", 15)."\x0D abcd ef",
                0,
                73,
            ),
            'is incomplete',
        ];
    }

    /** @param  array<string, mixed>|null  $reader */
    #[DataProvider('files')]
    public function test_a_file(string $bytes, string $says, ?array $reader = null): void
    {
        $migration = Migration::query()->create(['name' => 'M', 'target_name' => 'x', 'installation' => 'test']);
        $source = $migration->sources()->create(['code' => 'S', 'name' => 'S']);
        $said = $this->upload($migration, (int) $source->id, $bytes, $reader);
        self::assertStringContainsString($says, $said);
        $frozen = str_starts_with($says, 'frozen');
        self::assertSame($frozen ? (int) substr($says, 7) : 0, DB::table('staged_rows')->count());
        self::assertSame($frozen ? 1 : 0, Extract::query()->whereNotNull('take_id')->count());
        self::assertSame(
            0,
            DB::table('takes')
                ->whereIn('state', ['reading', 'waiting'])
                ->count(),
        );
        if (! $frozen) {
            self::assertSame([0, 0], [DB::table('column_values')->count(), DB::table('findings')->count()]);
        }
        $this->get("/m/$migration->id/sources")->assertOk();
        foreach (Extract::query()->get() as $extract) {
            foreach (
                $extract->take_id === null
                    ? ['']
                    : ['', '?show=findings', '?show=rows', '?show=keys', '?show=takes', '/columns/0'] as $page
            ) {
                $this->get("/m/$migration->id/sources/extracts/$extract->id$page")->assertOk();
            }
        }
    }

    /** @param  array<string, mixed>|null  $reader */
    private function upload(Migration $migration, int $source, string $bytes, ?array $reader): string
    {
        $this->actingAs($this->user(Role::Consultant));
        $answer = $this->from("/m/$migration->id/sources")->post("/m/$migration->id/sources/upload", [
            'source' => $source,
            'file' => UploadedFile::fake()->createWithContent('legacy.bin', $bytes),
        ]);
        if (session('refused')) {
            return (string) session('refused');
        }
        $at = (string) $answer->headers->get('Location');
        $part = $this->app->make(Incoming::class)->find(basename($at))['parts'][0] ?? null;
        $page = $this->get($at.($reader === null ? '' : '?'.http_build_query(['reader' => $reader])));
        $page->assertOk();
        if ($part?->settings === null) {
            return (string) $part?->refused;
        }
        $this->post($at, ['name' => 'legacy', 'reader' => $reader ?? $part->settings->toArray()]);
        if (session('refused')) {
            return (string) session('refused');
        }
        $take = Take::query()->latest('id')->firstOrFail();

        return $take->state->value === 'frozen' ? "frozen $take->rows" : (string) $take->error;
    }

    public function test_a_file_of_several_tables_is_frozen_whole(): void
    {
        $migration = Migration::query()->create(['name' => 'M', 'target_name' => 'x', 'installation' => 'test']);
        $source = $migration->sources()->create(['code' => 'S', 'name' => 'S']);
        $path = sys_get_temp_dir().'/baggage-several.xlsx';
        $book = new WorkbookFile($path);
        $book->sheet('Berths', [['a title'], [], ['Harbour', 'Berth'], ['INV', '001'], ['INV', '002']]);
        $book->sheet('Codes', [['Code', 'Means'], ['A', 'active']]);
        $book->sheet('empty', []);
        $book->save();
        $this->actingAs($this->user(Role::Lead));
        $answer = $this->post("/m/$migration->id/sources/upload", [
            'source' => $source->id,
            'file' => new UploadedFile($path, 'office.xlsx', null, null, true),
        ]);
        $at = (string) $answer->headers->get('Location');
        $this->get($at)->assertSee('Freeze all 2 tables')->assertSee('row 3 is the first that fills most columns');
        $this->get("$at?part=2")->assertSee('The sheet is empty');
        $this->post($at, ['all' => 1])->assertRedirect();
        self::assertSame(
            [['Berths', 2], ['Codes', 1]],
            Extract::query()->with('take')->orderBy('id')->get()->map(fn ($e) => [$e->name, $e->take?->rows])->all(),
        );
    }
}
