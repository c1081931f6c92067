<?php

namespace Tests\Core;

use App\Reading\ParameterText;
use App\Reading\ReaderForm;
use App\Reading\ZipMembers;
use App\Support\WorkbookFile;
use Baggage\Core\Ordering\Levels;
use Baggage\Core\Profiling\Mark;
use Baggage\Core\Profiling\Shape;
use Baggage\Core\Reading\HeaderGuess;
use Baggage\Core\Reading\Http\HttpFormat;
use Baggage\Core\Reading\Http\Paging;
use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\Query\Filter;
use Baggage\Core\Reading\Query\Parameter;
use Baggage\Core\Reading\RawRow;
use Baggage\Core\Reading\Workbook\CellText;
use Baggage\Core\Reading\Workbook\CellView;
use Baggage\Core\Reading\Workbook\NumberFormat;
use Baggage\Core\Reading\Workbook\SharedStrings;
use Baggage\Core\Reading\Workbook\SheetGrid;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/** The small parts that reading rests on. */
final class ReadingPartsTest extends TestCase
{
    /** Spreadsheets name columns A to Z, AA to AZ, BA …; XFD is the last of an .xlsx sheet, the 16,384th (ECMA-376, part 1, 18.3.1.73). */
    public function test_column_letters(): void
    {
        foreach (
            [1 => 'A', 26 => 'Z', 27 => 'AA', 52 => 'AZ', 53 => 'BA', 702 => 'ZZ', 703 => 'AAA', 16384 => 'XFD'] as $number => $letters
        ) {
            self::assertSame([$letters, $number], [Layout::letters($number), Layout::number($letters)]);
        }
        foreach (['F-B', '0-3', 'A--B', 'A1-B2', 'ABCD-E'] as $bad) {
            try {
                Layout::fromArray(['columns' => $bad]);
                self::fail($bad);
            } catch (\InvalidArgumentException $e) {
                self::assertStringContainsString('columns', $e->getMessage());
            }
        }
    }

    public function test_the_header_of_a_sheet_is_found_below_its_titles(): void
    {
        $rows = fn (array $cells) => array_map(fn ($c, $i) => new RawRow($i + 1, $c), $cells, array_keys($cells));
        [$layout, $why] = HeaderGuess::of(
            $rows([['Berths 2004', null, null], [], ['Harbour', 'Berth', 'Length'], ['INV', '001', '9.5']]),
        );
        self::assertSame(
            [true, 2, 'row 3 is the first that fills most columns'],
            [$layout->header, $layout->skip, $why],
        );
        [$layout] = HeaderGuess::of($rows([['INV', '001', '9.5'], ['INV', '002', '8']]));
        self::assertSame([false, 0], [$layout->header, $layout->skip]);
        self::assertSame('the sheet has no cells', HeaderGuess::of([])[1]);
    }

    /** RFC 8288, section 3.5, examples; and the other ways pages follow each other. */
    public function test_how_one_page_leads_to_the_next(): void
    {
        $link = new Paging('link');
        self::assertSame(
            'http://example.com/TheBook/chapter3',
            $link->after(
                'http://example.com/TheBook/chapter2',
                '<http://example.com/TheBook/chapter2>; rel="previous"; title="previous chapter", '
                    .'<http://example.com/TheBook/chapter3>; rel="next"',
                [],
                5,
            ),
        );
        self::assertNull($link->after('x', '<http://example.com/a>; rel="start"', [], 5));
        $number = new Paging('number', 'page', '', 0);
        self::assertSame('http://h/t?size=5&page=0', $number->begin('http://h/t?size=5'));
        self::assertSame('http://h/t?size=5&page=1', $number->after('http://h/t?size=5&page=0', '', [], 5));
        self::assertNull($number->after('http://h/t?page=7', '', [], 0));
        $cursor = new Paging('cursor', 'after', 'meta.next');
        self::assertSame(
            'http://h/t?after=a%26b%241',
            $cursor->after('http://h/t', '', ['meta' => ['next' => 'a&b$1']], 5),
        );
        self::assertSame('http://h/t?after=2', $cursor->after('http://h/t?after=1', '', ['meta' => ['next' => 2]], 5));
        foreach ([['meta' => ['next' => null]], ['meta' => 'x'], []] as $end) {
            self::assertNull($cursor->after('http://h/t', '', $end, 5));
        }
        self::assertNull((new Paging)->after('http://h/t', '', [], 5));
        foreach ([['sideways'], ['number'], ['cursor', 'after']] as $bad) {
            try {
                new Paging(...$bad);
                self::fail(implode(' ', $bad));
            } catch (\InvalidArgumentException $e) {
                self::assertNotSame('', $e->getMessage());
            }
        }
        $this->expectExceptionMessage('it cannot name another host');
        new HttpFormat('desk', 'https://elsewhere.example/');
    }

    public function test_where_a_parameter_gets_its_value(): void
    {
        $now = new \DateTimeImmutable('2026-11-24 23:59:59', new \DateTimeZone('UTC'));
        foreach (
            [
                [['today' => true], '2026-11-24'],
                [['month_start' => true], '2026-11-01'],
                [['fixed' => 'x'], 'x'],
                [['highest' => 'ID', 'first' => '0'], '417'],
            ] as [$written, $value]
        ) {
            $parameter = Parameter::fromArray('p', $written);
            self::assertSame([$value, $written], [$parameter->resolve($now, '417'), $parameter->toArray()]);
        }
        self::assertSame('0', Parameter::fromArray('p', ['highest' => 'ID', 'first' => '0'])->resolve($now, null));
        $text = "since = highest CHANGED AT, first 2000-01-01\nday = today\nharbour = INV, ORR";
        self::assertSame(
            $text,
            ParameterText::of(array_map(fn ($p) => Parameter::fromArray('p', $p), ParameterText::parse($text))),
        );
        $this->expectExceptionMessage('is no parameter');
        ParameterText::parse('nonsense');
    }

    public function test_forms_and_filters(): void
    {
        $settings = ReaderForm::settings([
            'kind' => 'database',
            'table' => 't',
            'only' => 'a, b',
            'where' => [
                ['column' => 'a', 'test' => 'is', 'value' => '0'],
                ['column' => '', 'test' => 'is', 'value' => ''],
            ],
            'parameters_text' => '',
            'sql' => '',
        ]);
        self::assertSame(
            [
                'kind' => 'database',
                'table' => 't',
                'only' => ['a', 'b'],
                'where' => [['column' => 'a', 'test' => 'is', 'value' => '0']],
            ],
            $settings->toArray(),
        );
        self::assertEquals(
            ['quote' => '', 'delimiter' => ';'],
            ReaderForm::settings(['quote' => '', 'delimiter' => 'semicolon', 'skip' => ''])->toArray(),
        );
        foreach ([['', 'is', 'x'], ['a', 'resembles', 'x'], ['a', 'is', '']] as $bad) {
            try {
                new Filter(...$bad);
                self::fail(implode(' ', $bad));
            } catch (\InvalidArgumentException $e) {
                self::assertNotSame('', $e->getMessage());
            }
        }
    }

    /** coreutils' tsort is the reference: what it puts first lies no farther out. */
    public function test_levels_agree_with_tsort(): void
    {
        $random = new Randomizer(new Mt19937(5));
        for ($try = 0; $try < 20; $try++) {
            $needs = $pairs = [];
            for ($i = 0; $i < 40; $i++) {
                $child = $random->getInt(2, 20);
                $parent = $random->getInt(1, $child - 1);
                $needs[$child][] = $parent;
                $pairs[] = "$parent $child";
            }
            $levels = Levels::of(range(1, 20), $needs);
            exec('printf '.escapeshellarg(implode('\n', $pairs).'\n').' | tsort', $order, $code);
            self::assertSame(0, $code);
            $place = array_flip(array_map(intval(...), $order));
            foreach ($needs as $child => $parents) {
                foreach ($parents as $parent) {
                    self::assertLessThan($levels[$child], $levels[$parent]);
                    self::assertLessThan($place[$child], $place[$parent]);
                }
            }
            $order = [];
        }
        // A circle ends somewhere, and everybody has a level.
        self::assertCount(3, Levels::of([1, 2, 3], [1 => [2], 2 => [3], 3 => [1]]));
    }

    /** Marks are remembered by the build of a value; what is remembered must be what a fresh look gives. */
    public function test_remembered_marks_are_those_of_a_fresh_look(): void
    {
        $look = new \ReflectionMethod(Mark::class, 'look');
        $random = new Randomizer(new Mt19937(11));
        $pieces = [
            '0',
            '1',
            '7',
            '12',
            '2003',
            'A',
            'CR',
            'total',
            'Total',
            'sum',
            'yes',
            'N',
            'x',
            'n/a',
            'unknown',
            'e',
            'E',
            '.',
            ',',
            '-',
            '/',
            ' ',
            '  ',
            ':',
            '+',
            '£',
            'ø',
            'Ã¸',
            "\u{A0}",
            'Jan',
            'subtotal',
            'grand',
            '%',
            '(',
            ')',
        ];
        for ($i = 0; $i < 30_000; $i++) {
            $value = '';
            for ($n = $random->getInt(1, 5); $n > 0; $n--) {
                $value .= $pieces[$random->getInt(0, count($pieces) - 1)];
            }
            $fresh = $look->invoke(null, $value);
            $ours = Mark::of($value);
            // Leading zeros and words for totals are looked for apart from the build.
            $apart = Mark::LEADING_ZERO | Mark::TOTAL_WORD;
            self::assertSame($fresh & ~$apart, $ours & ~$apart, json_encode($value).' '.Shape::raw($value));
        }
        self::assertSame(
            [Mark::LEADING_ZERO, 0, Mark::LEADING_ZERO],
            [
                Mark::of('007') & Mark::LEADING_ZERO,
                Mark::of('700') & Mark::LEADING_ZERO,
                Mark::of('-007') & Mark::LEADING_ZERO,
            ],
        );
    }

    public function test_texts_of_a_workbook_beyond_memory_come_back_as_they_were(): void
    {
        $texts = [];
        for ($i = 0; $i < 60_000; $i++) {
            $texts[] = $i % 7 === 0 ? '' : "text $i ".str_repeat('ø&<', $i % 90);
        }
        $xml = '<?xml version="1.0"?><sst xmlns="x" count="1">'
            .implode(
                '',
                array_map(
                    fn ($t) => '<si><t xml:space="preserve">'.htmlspecialchars($t, ENT_XML1).'</t></si>',
                    $texts,
                ),
            )
            .'</sst>';
        $strings = SharedStrings::of(str_split($xml, 65_537));
        foreach ([0, 1, 7, 8, 41_000, 59_998, 59_999] as $i) {
            self::assertSame($texts[$i], $strings->at($i));
        }
        $this->expectExceptionMessage('names the text number 60000');
        $strings->at(60_000);
    }

    public function test_rich_and_escaped_texts(): void
    {
        self::assertSame(
            'plain bold',
            CellText::of(
                '<r><t>plain </t></r><r><rPr><b/></rPr><t>bold</t></r><rPh sb="0" eb="1"><t>kana</t></rPh>',
                '',
            ),
        );
        self::assertSame("a\nb A _x004", CellText::of('<t>a_x000D_&#10;b _x0041_ _x004</t>', ''));
        self::assertSame('<&>"', CellText::decode('&lt;&amp;&gt;&quot;'));
    }

    /** The quick way through a row and the way through an XML parser have to agree, at any border between chunks. */
    public function test_both_ways_through_a_row_agree_at_any_border(): void
    {
        $cells = '<row r="2" spans="1:5"><c r="A2" s="1"><v>40179</v></c><c r="C2" '
                .'t="str"><f>A1&amp;"x"</f><v>a&amp;b</v></c><c r="D2" t="b"><v>1</v></c><c r="E2" '
                .'t="inlineStr"><is><t>x y</t></is></c></row><row r="3"/><row r="5"><c r="B5"><f t="shared" '
                .'si="0"/><v>1.5E3</v></c></row>';
        $formats = [NumberFormat::of('General'), NumberFormat::of('dd/mm/yyyy')];
        $read = function (string $xml, int $size) use ($formats): array {
            $grid = new SheetGrid(
                str_split(
                    "<worksheet><dimension ref=\"A1:E5\"/><sheetData>$xml</sheetData><mergeCells "
                        .'count="1"><mergeCell ref="A1:B1"/></mergeCells></worksheet>',
                    $size,
                ),
                SharedStrings::of([]),
                $formats,
                false,
                CellView::Plain,
            );
            $rows = [];
            foreach ($grid as $row) {
                $rows[$row->line] = $row->cells;
            }

            return [$rows, $grid->merged, $grid->lastRow, $grid->statedLast, $grid->formulas->count];
        };
        $expected = [[2 => ['2010-01-01', null, 'a&b', 'TRUE', 'x y'], 5 => [null, '1500']], 1, 5, 5, 2];
        // Blanks between the cells are nothing the pattern knows, so these rows take the other way.
        $spaced = str_replace('<c ', "\n <c ", $cells);
        for ($size = 1; $size < 60; $size += 3) {
            self::assertSame($expected, $read($cells, $size));
            self::assertSame($expected, $read($spaced, $size));
        }
    }

    /** @return iterable<array{string, string, string}> */
    public static function formats(): iterable
    {
        // Microsoft, "Number format codes": the examples of its tables.
        yield ['####.#', '1234.59', '1234.6'];
        yield ['#.000', '8.9', '8.900'];
        yield ['0.#', '.631', '0.6'];
        yield ['#.0#', '12', '12.0'];
        yield ['#.0#', '1234.568', '1234.57'];
        yield ['#,###', '12000', '12,000'];
        yield ['#,', '12000', '12'];
        yield ['0.0,,', '12200000', '12.2'];
        yield ['0%', '.08', '8%'];
        yield ['$#,##0.00;[Red]-$#,##0.00', '-12', '-$12.00'];
        yield ['0.00_);(0.00)', '-3.5', '(3.50)'];
        yield ['"No. "000', '7', 'No. 007'];
        yield ['d mmmm yyyy', '39448', '1 January 2008'];
        yield ['ddd dd-mmm-yy', '39448', 'Tue 01-Jan-08'];
        yield ['h:mm AM/PM', '0.5', '12:00 PM'];
        yield ['h:mm:ss', '0.999988426', '23:59:59'];
        yield ['[h]:mm', '1.5', '36:00'];
        yield ['[mm]:ss', '0.04', '57:36'];
        yield ['mm:ss', '0.04', '57:36'];
    }

    #[DataProvider('formats')]
    public function test_number_formats(string $code, string $number, string $shown): void
    {
        self::assertSame($shown, NumberFormat::of($code)->show($number));
    }

    public function test_the_demos_workbooks_are_the_same_bytes_each_time(): void
    {
        $sums = [];
        foreach ([1, 2] as $i) {
            $book = new WorkbookFile(($path = sys_get_temp_dir()."/baggage-same-$i.xlsx"));
            $book->sheet('S', [['a', 1, ['date', 40179]]]);
            $book->save();
            $sums[] = hash_file('sha256', $path);
        }
        self::assertSame($sums[0], $sums[1]);
        self::assertContains(
            'xl/worksheets/sheet1.xml',
            ZipMembers::of(sys_get_temp_dir().'/baggage-same-1.xlsx')->names(),
        );
    }
}
