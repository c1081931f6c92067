<?php

namespace Tests\Feature;

use App\Support\Csv;
use App\View\Tables\Column;
use App\View\Tables\Table;
use App\View\Tables\Test;
use Illuminate\Http\Request;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** The one table: what its address says is what is shown, and what is given as .csv. */
final class TablesTest extends TestCase
{
    /** @param  array<string, string>  $query */
    private function table(array $query, int $size = 10): Table
    {
        $rows = [];
        for ($n = 1; $n <= 35; $n++) {
            $rows[] = [
                'name' => $n === 7 ? '' : "Row $n",
                'n' => $n % 5 === 0 ? null : $n * 1.5,
                'town' => $n % 2 === 0 ? 'Ardmore' : 'skerry',
            ];
        }

        return Table::of(Request::create('/m/1/sources', 'GET', $query), 't', [
            Column::text('name', 'Name', fn ($r) => $r['name']),
            Column::number('n', 'Amount', fn ($r) => $r['n']),
            Column::text('town', 'Town', fn ($r) => $r['town']),
            Column::bare('Open'),
        ], $rows, $size);
    }

    public function test_pages_sorting_and_what_is_alike(): void
    {
        $table = $this->table(['t-page' => '4']);
        self::assertSame([35, 35, 4, 4], [$table->total(), $table->count(), $table->page(), $table->pages()]);
        self::assertSame(['Row 31', 'Row 32', 'Row 33', 'Row 34', 'Row 35'], array_column($table->rows(), 'name'));
        // A page that is not there is the last one, or the first.
        self::assertSame([4, 1, 1], array_map(fn ($p) => $this->table(['t-page' => $p])->page(), ['99', '-3', 'x']));
        self::assertSame(['Row 2', 'Row 4', 'Row 6'], array_slice(array_column($this->table(['t-sort' => 'town'])->rows(), 'name'), 0, 3));
        // Numbers within names count as numbers; a row without a value stands last, whichever way round.
        $up = array_column($this->table(['t-sort' => 'name'], 99)->rows(), 'name');
        $down = array_column($this->table(['t-sort' => '-name'], 99)->rows(), 'name');
        self::assertSame(['Row 1', 'Row 2', 'Row 3', ''], [$up[0], $up[1], $up[2], $up[34]]);
        self::assertSame(['Row 35', 'Row 34', ''], [$down[0], $down[1], $down[34]]);
        self::assertSame(51.0, $this->table(['t-sort' => '-n'])->rows()[0]['n']);
        self::assertNull($this->table(['t-sort' => 'n'], 99)->rows()[34]['n']);
        // A column that is not there, and one of actions, sort nothing.
        self::assertSame('Row 1', $this->table(['t-sort' => 'nope'])->rows()[0]['name']);
        self::assertSame('Row 1', $this->table(['t-sort' => ''])->rows()[0]['name']);
    }

    public function test_filters_together_and_the_address_keeps_what_is_not_its_own(): void
    {
        $table = $this->table(['t-town' => 'ARD', 't-n' => '3..9', 'other' => 'x', 't-sort' => '-n', 't-page' => '2', 'u-name' => 'y']);
        self::assertSame(['Row 6', 'Row 4', 'Row 2'], array_column($table->rows(), 'name'));
        self::assertTrue($table->isFiltered());
        [$name, $amount] = $table->columns;
        self::assertSame([null, 'descending'], [$table->order($name), $table->order($amount)]);
        self::assertSame('/m/1/sources?other=x&t-n=3..9&t-sort=n&t-town=ARD&u-name=y', $table->sortedBy($amount));
        self::assertSame('/m/1/sources?other=x&t-sort=-n&u-name=y', $table->unfiltered());
        self::assertSame(['other' => 'x', 't-sort' => '-n', 'u-name' => 'y'], $table->kept());
        self::assertStringEndsWith('&t-csv=1', $table->asCsv());
        self::assertSame([], $this->table(['t-name' => 'no such'])->rows());
    }

    /** @return iterable<array{string, bool, string|int|float|null, bool}> */
    public static function typed(): iterable
    {
        yield from [
            ['vess', false, 'Vessels', true], ['=Vessels', false, 'Vessels', true], ['=vessels', false, 'Vessels', false],
            ['=', false, '', true], ['=', false, null, true], ['=', false, 'x', false], ['ö', false, 'MÖWE', true],
            ['5', true, 5, true], ['5', true, 5.0, true], ['5', true, 50, false], ['>5', true, 6, true], ['>5', true, 5, false],
            ['>=5', true, 5, true], ['<=1,204', true, 1204, true], ['< 3', true, 2, true], ['-2..2', true, -1.5, true],
            ['2..4', true, 5, false], ['=', true, null, true], ['=', true, 0, false], ['abc', true, 5, false], ['>1', true, null, false],
        ];
    }

    #[DataProvider('typed')]
    public function test_what_is_typed_over_a_column(string $typed, bool $isNumber, string|int|float|null $value, bool $fits): void
    {
        self::assertSame($fits, Test::of($typed, $isNumber)?->fits($value));
    }

    public function test_comma_separated_values(): void
    {
        ob_start();
        $this->table(['t-n' => '>48', 't-csv' => '1'])->csv()->sendContent();
        // RFC 4180, section 2: lines end with CRLF, the header stands first.
        self::assertSame("Name,Amount,Town\r\nRow 33,49.5,skerry\r\nRow 34,51,Ardmore\r\n", ob_get_clean());
        // The same: cells with commas, quotes and line ends stand in quotes, quotes are doubled.
        self::assertSame(
            "\"a,b\",\"say \"\"so\"\"\",\"two\nlines\",plain,\r\n",
            Csv::line(['a,b', 'say "so"', "two\nlines", 'plain', null]),
        );
        // Common practice, no source: what a spreadsheet would run gets an apostrophe; a number does not.
        self::assertSame(
            "'=1+1,'@x,'+a,-5,-1.5e3,\"'=cmd|' /C calc'!A0,b\"\r\n",
            Csv::line(['=1+1', '@x', '+a', -5, '-1.5e3', "=cmd|' /C calc'!A0,b"]),
        );
    }
}
