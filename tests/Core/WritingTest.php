<?php

namespace Tests\Core;

use Baggage\Core\Reading\DelimitedFormat;
use Baggage\Core\Reading\Encoding;
use Baggage\Core\Rows\RowSet;
use Baggage\Core\Writing\AnnotatedText;
use Baggage\Core\Writing\AnswerColumns;
use Baggage\Core\Writing\Reference;
use Baggage\Core\Writing\Workbook\AnnotatedSheet;
use Baggage\Core\Writing\Workbook\BookXml;
use Baggage\Core\Writing\Workbook\CellStyle;
use Baggage\Core\Writing\Workbook\SheetXml;
use Baggage\Core\Writing\Workbook\Xml;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class WritingTest extends TestCase
{
    /** The order of the elements of a sheet (ECMA-376, part 1, 18.3.1.99, CT_Worksheet; value from memory). */
    private const ORDER = ['sheetPr', 'dimension', 'sheetViews', 'sheetFormatPr', 'cols', 'sheetData', 'sheetProtection', 'autoFilter',
        'mergeCells', 'conditionalFormatting', 'dataValidations', 'hyperlinks', 'pageMargins'];

    public function test_a_sheet_is_as_the_standard_has_it(): void
    {
        $sheet = new SheetXml;
        $xml = $sheet->head([10.0, 20.0]).$sheet->row(['no', 'code'], [CellStyle::Head, CellStyle::Head]);
        foreach (['=1+1', " a\tb ", "x\ny", "\x01<&>\"", '_x0041_', ''] as $text) {
            $xml .= $sheet->row(['007', $text], [1 => CellStyle::Wrong]);
            $text === "x\ny" ?: $sheet->choice(1, "'Codes'!\$B\$2:\$B\$4");
        }
        $read = simplexml_load_string($xml.$sheet->foot(2)) ?: self::fail();
        $names = array_keys((array) $read);
        self::assertSame(array_values(array_intersect(self::ORDER, $names)), $names);
        self::assertSame('A1:B7', (string) $read->autoFilter['ref']);
        self::assertSame('B2:B3 B5:B7', (string) $read->dataValidations->dataValidation['sqref']);
        $cells = array_map(fn ($row) => (string) $row->c[1]->is->t, iterator_to_array($read->sheetData->row, false));
        self::assertSame(['code', '=1+1', " a\tb ", "x\ny", '_x0001_<&>"', '_x005F_x0041_', ''], $cells);
        self::assertSame(['inlineStr', '1'], [(string) $read->sheetData->row[1]->c[0]['t'], (string) $read->sheetData->row[1]->c[0]['s']]);
    }

    public function test_parts_name_each_other(): void
    {
        $parts = BookXml::parts($names = BookXml::names(['Parties', 'parties', 'A/B: [1]?', str_repeat('x', 40), '']));
        self::assertSame(['Parties', 'parties 2', 'A B   1', str_repeat('x', 31), 'Sheet'], $names);
        foreach ($parts as $name => $text) {
            self::assertNotFalse(simplexml_load_string($text), $name);
        }
        $styles = simplexml_load_string($parts['xl/styles.xml']) ?: self::fail();
        // 49 is text (ECMA-376, part 1, 18.8.30).
        self::assertSame(['49'], array_values(array_unique(array_slice(array_map(
            fn ($xf) => (string) $xf['numFmtId'], iterator_to_array($styles->cellXfs->xf, false),
        ), 1))));
        self::assertSame('_x000D_', Xml::text("\r"));
    }

    /** @return array<string, array{DelimitedFormat, string, array<int, list<string>>, string}> */
    public static function texts(): array
    {
        $added = [2 => ['loaded', '7', '', '1'], 3 => ['rejected', '', 'a;b "c"', '1']];
        $plain = new DelimitedFormat(';');
        $utf16 = fn (string $text) => "\xFF\xFE".mb_convert_encoding($text, 'UTF-16LE', 'UTF-8');

        return [
            'own line ends, no last one' => [
                $plain, "no;name\r\n1;Ann\r\n2;Bo", $added, "no;name;O;K;M;P\r\n1;Ann;loaded;7;;1\r\n2;Bo;rejected;;\"a;b \"\"c\"\"\";1",
            ],
            'a line end within a cell' => [
                $plain, "no;name\n1;\"A\n\nnn\"\n2;Bo\n", [2 => ['x', '', '', ''], 5 => ['y', '', '', '']],
                "no;name;O;K;M;P\n1;\"A\n\nnn\";x;;;\n2;Bo;y;;;\n",
            ],
            'a quote nobody closed' => [
                $plain, "no;name\n1;6\" pipe\n2;Bo\n", [2 => ['x', '', '', ''], 3 => ['y', '', '', '']],
                "no;name;O;K;M;P\n1;6\" pipe;x;;;\n2;Bo;y;;;\n",
            ],
            'totals at the foot' => [
                $plain, "no;name\n1;Ann\n\nTotal;1\n", [2 => ['x', '', '', '']], "no;name;O;K;M;P\n1;Ann;x;;;\n\nTotal;1\n",
            ],
            'its own encoding' => [
                new DelimitedFormat(';', '"', Encoding::Windows1252), "no;name\n1;Bj\xF8rn\n", [2 => ['é', '=1', '', '']],
                "no;name;O;K;M;P\n1;Bj\xF8rn;\xE9;'=1;;\n",
            ],
            'two bytes a letter' => [
                new DelimitedFormat("\t", '"', Encoding::Utf16LE), $utf16("no\tname\r\n1\t😀é\r\n"), [2 => ['x', 'ø', '', '']],
                $utf16("no\tname\tO\tK\tM\tP\r\n1\t😀é\tx\tø\t\t\r\n"),
            ],
            'no quotes at all' => [
                new DelimitedFormat('|', ''), "no|name\n1|\"A\n", [2 => ['a|b', '', '', '']], "no|name|O|K|M|P\n1|\"A|a b|||\n",
            ],
        ];
    }

    /** @param  array<int, list<string>>  $added */
    #[DataProvider('texts')]
    public function test_text_with_cells_added(DelimitedFormat $format, string $text, array $added, string $expected): void
    {
        foreach ([1, 3, 1000] as $size) {
            $chunks = str_split($text, $size);
            $made = implode('', iterator_to_array((new AnnotatedText($format))->of($chunks, $added, 1, ['O', 'K', 'M', 'P']), false));
            self::assertSame(bin2hex($expected), bin2hex($made), "$size bytes at a time");
        }
    }

    public function test_a_sheet_with_cells_added(): void
    {
        $xml = '<?xml version="1.0"?><x:worksheet xmlns:x="u"><x:dimension ref="A1:B3"/><x:sheetData>'
            .'<x:row r="1" spans="1:2"><x:c r="A1" s="4"><x:v>1</x:v></x:c></x:row><x:row r="2"/>'
            .'<x:row r="3" ht="9"><x:c r="B3"><x:f>A1&amp;"x"</x:f></x:c></x:row></x:sheetData><x:pageMargins left="1"/></x:worksheet>';
        $added = [1 => ['T'], 2 => ['never'], 3 => ['<&']];
        $cell = fn (string $at, string $text, string $style = '') => "<x:c r=\"$at\"$style t=\"inlineStr\"><x:is>"
            ."<x:t xml:space=\"preserve\">$text</x:t></x:is></x:c>";
        $expected = str_replace(
            ['A1:B3', 'spans="1:2"', '<x:v>1</x:v></x:c>', '</x:f></x:c>'],
            ['A1:C3', 'spans="1:3"', '<x:v>1</x:v></x:c>'.$cell('C1', 'T', ' s="4"'), '</x:f></x:c>'.$cell('C3', '&lt;&amp;')],
            $xml,
        );
        foreach ([1, 7, 10_000] as $size) {
            $chunks = str_split($xml, $size);
            self::assertSame(3, AnnotatedSheet::after($chunks));
            $sheet = new AnnotatedSheet(3, 1, fn (int $row) => $added[$row] ?? null, 1);
            self::assertSame($expected, implode('', iterator_to_array($sheet->of($chunks), false)), "$size bytes at a time");
        }
    }

    public function test_a_reference_is_known_again_and_no_other(): void
    {
        $text = Reference::write($code = Reference::code(), 7, 144, ['a', null, 'Ö']);
        $is = Reference::of(" $text ") ?? self::fail();
        self::assertSame([$code, 7, 144], [$is->file, $is->load, $is->row]);
        self::assertSame(Reference::hash(['a', '', 'Ö']), $is->said, 'A file tells nothing from nothing.');
        foreach ([['a', 'Ö', ''], ['a', '', 'Ö', ''], ['a', '', 'O'], ['A', '', 'Ö'], ['a', '', 'Ö '], ['aÖ']] as $other) {
            self::assertNotSame(Reference::hash($other), $is->said);
        }
        // As files have it that were written before the cells were in it.
        $old = Reference::of(substr($text, 0, -12)) ?? self::fail();
        self::assertSame([$code, 7, 144, null], [$old->file, $old->load, $old->row, $old->said]);
        foreach ([null, '', 'K7', str_replace('-144-', '-145-', $text), strtolower($text)] as $none) {
            self::assertNull(Reference::of($none));
        }
    }

    public function test_a_set_of_rows(): void
    {
        $set = new RowSet;
        foreach ([1, 8, 144, 100_000, 144] as $row) {
            self::assertSame(! $set->has($row), $set->add($row));
        }
        $again = RowSet::unpacked($set->packed());
        self::assertSame([4, 4, false, true], [$set->count(), $again->count(), $again->has(2), $again->has(100_000)]);
        $other = new RowSet;
        array_map($other->add(...), [8, 9]);
        self::assertSame([1, 5, 1], [$set->and($other)->count(), $set->or($other)->count(), $other->and($again)->count()]);
        self::assertSame(0, RowSet::unpacked((new RowSet)->packed())->count() + RowSet::unpacked('')->count());
    }

    public function test_columns_are_found_by_their_titles(): void
    {
        $added = ['Row', 'Remark', 'Reference'];
        $is = AnswerColumns::of(['no', 'name', 'name', 'kind'], $added, ['Reference', 'name ', 'no', "'name", 'Row', '', 'Kind of it'], []);
        self::assertSame([[0 => 2, 1 => 1, 2 => 3], ['kind'], ['Kind of it']], [$is->own, $is->missing, $is->unknown]);
        $is = AnswerColumns::of(['no', 'kind'], $added, ['no', 'Kind of it', 'ours'], ['Kind of it' => 'kind', 'ours' => '']);
        self::assertSame([[0 => 0, 1 => 1], [], []], [$is->own, $is->missing, $is->unknown]);
    }
}
