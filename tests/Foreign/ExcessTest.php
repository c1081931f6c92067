<?php

namespace Tests\Foreign;

use App\Freezing\Freezer;
use App\Freezing\FreezeTake;
use App\Freezing\Look;
use App\Looking\Looks;
use App\Models\TakeState;
use App\Reading\Part;
use App\Support\ApartEnded;
use App\Support\Bounds;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use Tests\TestCase;

/** Files that would take a machine: looked into and frozen in processes with little to take, each is told in its own words. */
final class ExcessTest extends TestCase
{
    /**
     * FS7, FS9, FS17.
     *
     * @return iterable<string, array{string, string}> bytes, and what is said
     */
    public static function excesses(): iterable
    {
        yield 'one endless line' => [str_repeat('x', 20_000_000), 'MB'];
        yield 'an endless quote' => ['a,b'."\n".'1,"'.str_repeat('x', 20_000_000), 'MB'];
        yield 'NUL bytes after a while' => [str_repeat("a,b\n", 80_000)."a,\0\n", 'NUL'];
        yield 'XML 100,000 deep' => [str_repeat('<a>', 100_000).'x'.str_repeat('</a>', 100_000), 'deep'];
        yield 'XML with 100,000 attributes' => [
            '<r>'.str_repeat('<j '.implode(' ', array_map(fn ($i) => "a$i=\"1\"", range(1, 100_000))).'/>', 2).'</r>',
            'A tag with its attributes',
        ];
        yield 'XML with one enormous text' => ['<r><j>'.str_repeat('x', 20_000_000).'</j><j>1</j></r>', 'A record is larger than 16 MB'];
        yield 'JSON 100,000 deep' => [str_repeat('[', 100_000).str_repeat(']', 100_000), 'nested more than 64 deep'];
        yield 'JSON with one enormous text' => ['[{"a":"'.str_repeat('x', 20_000_000).'"}]', 'MB'];
        yield 'JSON with 10,000 members' => ['[{'.implode(',', array_map(fn ($i) => "\"c$i\":1", range(1, 10_000))).'}]', '4,096'];
        yield 'a cell at ZZZZZZZZ5' => [
            HostileFilesTest::workbook([], '<row r="1"><c r="A1"><v>1</v></c></row><row r="5"><c r="ZZZZZZZZ5"><v>1</v></c></row>'),
            'ZZZZZZZZ5',
        ];
        yield 'a row 99999999999' => [
            HostileFilesTest::workbook([], '<row r="1"><c r="A1"><v>1</v></c></row><row r="99999999999"><c r="A2"><v>1</v></c></row>'),
            '99999999999',
        ];
        yield 'texts with a document type' => [
            HostileFilesTest::workbook([
                'xl/_rels/workbook.xml.rels' => '<Relationships>'
                    .'<Relationship Id="r1" Target="worksheets/sheet1.xml"/><Relationship Id="r2" '
                    .'Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/sharedStrings" '
                    .'Target="sharedStrings.xml"/></Relationships>',
                'xl/sharedStrings.xml' => '<!DOCTYPE x [<!ENTITY e "x">]><sst><si><t>&e;</t></si></sst>',
            ], '<row r="1"><c r="A1" t="s"><v>0</v></c></row><row r="2"><c r="A2"><v>1</v></c></row>'),
            'declares a document type',
        ];
        yield 'a zip of 300 tables' => [
            HostileFilesTest::zip(array_combine(array_map(fn ($i) => "$i.csv", range(1, 300)), array_fill(0, 300, "a,b\n1,2\n"))),
            '200',
        ];
        $inner = HostileFilesTest::zip(['b.zip' => HostileFilesTest::zip(['c.csv' => 'a'])]);
        yield 'a zip of zips of zips' => [HostileFilesTest::zip(['a.zip' => $inner]), 'inside an archive'];
    }

    #[DataProvider('excesses')]
    public function test_an_excess_is_told_and_nothing_of_it_is_kept(string $bytes, string $says): void
    {
        config(['baggage.scratch' => self::work('scratch'), 'baggage.apart.on' => true]);
        config(['baggage.apart.freeze' => ['memory' => 128, 'answer' => 1000], 'baggage.apart.stalled' => 10]);
        $path = self::work('excess.bin');
        file_put_contents($path, $bytes);
        $said = $this->said($path);
        self::assertStringContainsString($says, $said);
        self::assertSame(0, DB::table('staged_rows')->count());
        self::assertSame([], glob(self::work('scratch').'/*') ?: []);
    }

    private function said(string $path): string
    {
        $bounds = new Bounds(5, 128, 1 << 20);
        try {
            $parts = Looks::apart(Look::class, ['what' => 'parts', 'path' => $path, 'name' => 'excess.bin'], $bounds);
            $part = isset($parts['is']) ? Part::fromArray($parts['is'][count($parts['is']) > 200 ? 200 : 0]) : null;
            if ($part?->settings === null || $part->refused !== null) {
                return (string) ($parts['refused'] ?? $part?->refused);
            }
            $given = ['what' => 'rows', 'path' => $path, 'settings' => $part->settings->toArray(), 'count' => 200];
            $rows = Looks::apart(Look::class, $given, $bounds);
            $error = $rows['refused'] ?? $rows['is']['error'];
        } catch (ApartEnded $e) {
            return $e->getMessage();
        }

        return $error ?? $this->froze($path, $part);
    }

    private function froze(string $path, Part $part): string
    {
        $source = $this->migration()->sources()->firstOrFail();
        $extract = $source->extracts()->create(['name' => 'x', 'reader' => $part->settings?->toArray()]);
        $take = $extract->newTake(['file' => $path, 'file_name' => 'excess.bin', 'bytes' => (int) filesize($path)]);
        (new FreezeTake($take->id))->handle(new Freezer);

        return $take->refresh()->state === TakeState::Frozen ? "frozen $take->rows" : (string) $take->error;
    }
}
