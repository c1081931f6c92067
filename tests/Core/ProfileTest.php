<?php

namespace Tests\Core;

use Baggage\Core\Profiling\ColumnFacts;
use Baggage\Core\Profiling\ColumnProfile;
use Baggage\Core\Profiling\ColumnRenames;
use Baggage\Core\Profiling\DateShape;
use Baggage\Core\Profiling\DistinctEstimate;
use Baggage\Core\Profiling\KeyGuess;
use Baggage\Core\Profiling\KeyHash;
use Baggage\Core\Profiling\KeyWatch;
use Baggage\Core\Profiling\Mark;
use Baggage\Core\Profiling\ReferenceGuess;
use Baggage\Core\Profiling\Shape;
use Baggage\Core\Profiling\TableProfile;
use Baggage\Core\Profiling\ValueBudget;
use Baggage\Core\Reading\Columns;
use Demo\Generator;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class ProfileTest extends TestCase
{
    /** @param  iterable<string|null>  $cells */
    private function facts(iterable $cells): ColumnFacts
    {
        $column = new ColumnProfile(new ValueBudget);
        $cells = is_array($cells) ? array_values($cells) : iterator_to_array($cells, false);
        $row = 1;
        foreach (array_chunk($cells, 700) as $part) {
            $column->add($part, range($row, $row + count($part) - 1));
            $row += count($part);
        }

        return $column->finish();
    }

    /** @return iterable<string, array{list<string|null>, string, int}> */
    public static function columns(): iterable
    {
        yield 'whole' => [['1', '20', '-3', '', null, '400'], 'whole number', 0];
        yield 'codes with leading zeros' => [['001', '020', '300'], 'code', 0];
        yield 'decimal point' => [['1.50', '1,204.00', '3', '.5'], 'decimal', 0];
        yield 'decimal comma' => [['1,50', '1.204,00-', '3', '0,5'], 'decimal, comma', 0];
        yield 'dates told apart' => [['31/12/1998', '01/02/2003', '15/06/2001'], 'date d/m/Y', 0];
        yield 'dates of two lengths' => [
            ['31/12/1998', '01/02/03', '15/06/2001', '28/02/99'],
            'date d/m/Y or d/m/y',
            0,
        ];
        yield 'iso dates and times' => [['1998-12-31 10:00', '2003-01-02'], 'date Y-m-d', 0];
        yield 'american dates' => [['12/31/1998', '01/02/2003'], 'date m/d/Y', 0];
        yield 'six digits are dates only when they all are' => [['311298', '010203', '150601'], 'date dmy', 0];
        yield 'six digits that are not' => [['311298', '999999', '150601'], 'whole number', 0];
        yield 'one of eleven is no number' => [
            [...array_map(strval(...), range(1, 10)), 'see file'],
            'whole number',
            1,
        ];
        yield 'yes and no' => [['Y', 'N', 'Y', ''], 'yes or no', 0];
        yield 'names' => [['Anne McKay', 'Bjørn Sund', 'Greta Holm-Velde of Inverlee'], 'text', 0];
        yield 'short codes' => [array_merge(...array_fill(0, 30, ['YT', 'M/V', 'TUG'])), 'code', 0];
        yield 'nothing' => [['', null, '  '], 'empty', 0];
    }

    /** @param  list<string|null>  $cells */
    #[DataProvider('columns')]
    public function test_what_a_column_seems_to_be(array $cells, string $label, int $breaking): void
    {
        $type = $this->facts($cells)->inference;
        self::assertSame([$label, $breaking], [$type->label(), $type->breaking]);
    }

    public function test_day_and_month_that_cannot_be_told_apart(): void
    {
        self::assertTrue($this->facts(['01/02/2003', '05/06/2001'])->inference->ambiguous);
        self::assertFalse($this->facts(['01/02/2003', '13/06/2001'])->inference->ambiguous);
        $facts = $this->facts(['02/01/2003', '13/06/2001', '00/00/00', '05/12/99']);
        self::assertSame(['05/12/99', '02/01/2003'], [$facts->smallest, $facts->largest]);
    }

    /** The calendar itself, PHP's checkdate over 60 years, is the reference for what is a date. */
    public function test_every_day_of_the_calendar_and_no_other(): void
    {
        $place = array_flip(DateShape::FORMATS);
        for ($year = 1980; $year < 2040; $year += 3) {
            for ($month = 0; $month <= 13; $month++) {
                for ($day = 0; $day <= 32; $day += 4) {
                    $fits = DateShape::formats(sprintf('%02d.%02d.%04d', $day, $month, $year));
                    self::assertSame(checkdate($month, $day, $year), (bool) (($fits >> $place['d.m.Y']) & 1));
                    $american = DateShape::formats(sprintf('%d/%d/%04d', $month, $day, $year), $impossible);
                    self::assertSame(checkdate($month, $day, $year), (bool) (($american >> $place['m/d/Y']) & 1));
                    self::assertSame(! checkdate($month, $day, $year) && ! checkdate($day, $month, $year), $impossible);
                }
            }
        }
    }

    public function test_single_values_are_marked(): void
    {
        foreach (
            [
                ' Skarv' => Mark::STRAY_SPACES,
                'Grey  Seal' => Mark::STRAY_SPACES,
                "Skarv\u{A0}" => Mark::STRAY_SPACES,
                'BjÃ¸rn' => Mark::MOJIBAKE,
                'donâ€™t' => Mark::MOJIBAKE,
                "a\u{FFFD}b" => Mark::MOJIBAKE,
                "a\u{200B}b" => Mark::CONTROL,
                "a\x07" => Mark::CONTROL,
                'n/a' => Mark::PLACEHOLDER,
                '??' => Mark::PLACEHOLDER,
                '1.2E+05' => Mark::SCIENTIFIC,
                '31/02/2003' => Mark::IMPOSSIBLE_DATE,
                '00/00/00' => Mark::SENTINEL_DATE,
                '31/12/9999' => Mark::SENTINEL_DATE,
                '01/02/03' => Mark::TWO_DIGIT_YEAR,
                '007' => Mark::LEADING_ZERO,
                'Grand total' => Mark::TOTAL_WORD,
            ] as $value => $mark
        ) {
            self::assertSame($mark, Mark::of((string) $value) & $mark, (string) $value);
        }
        foreach (['Skarv', 'Ærø', 'Ångström', '12 Pier Street', '2003-02-01', '10', 'Totally'] as $clean) {
            self::assertSame(
                0,
                Mark::of($clean)
                    & (Mark::ODD | Mark::SENTINEL_DATE | Mark::IMPOSSIBLE_DATE | Mark::TOTAL_WORD | Mark::TWO_DIGIT_YEAR),
                $clean,
            );
        }
        self::assertSame(
            ['UU-ddd', '2 capitals - 3 digits', 'word blank word', 'other text'],
            [
                Shape::of('CR-118'),
                Shape::words('UU-ddd'),
                Shape::words(Shape::of('Ærø Holm')),
                Shape::words(Shape::of(str_repeat('long ', 9))),
            ],
        );
    }

    /** Flajolet et al. 2007: standard error 1.04 / sqrt(m); four of them leave one chance in ten thousand. */
    public function test_the_estimate_keeps_its_stated_error(): void
    {
        foreach ([1_000, 30_000, 200_000, 500_000] as $n) {
            $estimate = new DistinctEstimate;
            foreach ([1, 3] as $step) {
                $estimate->add(
                    (function () use ($n, $step) {
                        for ($i = 0; $i < $n; $i += $step) {
                            yield "value $i";
                        }
                    })(),
                );
            }
            self::assertEqualsWithDelta($n, $estimate->estimate(), 4 * DistinctEstimate::ERROR * $n);
        }
    }

    public function test_many_different_values_stay_within_bounds(): void
    {
        $before = memory_get_usage();
        $column = new ColumnProfile(new ValueBudget);
        foreach (array_chunk(range(1, 120_000), 5000) as $rows) {
            $column->add(array_map(fn ($i) => $i % 10 === 0 ? 'again' : "K-$i", $rows), $rows);
        }
        $facts = $column->finish();
        self::assertLessThan(12_000_000, memory_get_usage() - $before);
        self::assertTrue($facts->estimated);
        self::assertEqualsWithDelta(108_001, $facts->distinct, 108_001 * 4 * DistinctEstimate::ERROR);
        self::assertSame(['text', 0], [$facts->inference->type, $facts->inference->breaking]);
        self::assertSame([], array_filter($facts->marked, fn ($list) => $list->count > 0 && $list->count < 100_000));
        self::assertSame([120_000, 12_000], [$facts->filled, $column->values()['again']]);
    }

    public function test_smallest_and_largest_by_what_the_column_is(): void
    {
        $ends = fn (array $cells) => [($f = $this->facts($cells))->smallest, $f->largest];
        self::assertSame(['Ann', 'ben'], $ends([' ', 'ben', 'Ann', '', null]), 'bytes as they are; blank is no value');
        self::assertSame(['9', '1,204.50'], $ends(['1,204.50', '9', '100']));
        self::assertSame(['1.204,50-', '3,5'], $ends(['3,5', '1.204,50-', '-7', '0,25']), 'a minus behind the number');
        self::assertSame(['-12', '4'], $ends(['4', '+3', '-12']));
        $many = array_map(fn ($i) => number_format((($i * 37) % 30_011) / 100, 2), range(1, 30_000));
        self::assertSame(['0.01', '300.10'], $ends($many), 'also beyond the values counted one by one');
    }

    /** How many rows come at a time makes no difference. */
    public function test_rows_one_by_one_and_all_at_once_tell_the_same(): void
    {
        mt_srand(11);
        $pick = fn (array $of) => $of[mt_rand(0, count($of) - 1)];
        $rows = [];
        for ($i = 0; $i < 900; $i++) {
            $rows[] = $i % 300 === 299
                ? ['No', 'What', 'When', 'Much']
                : array_slice(
                    [
                        $pick(["A-$i", '0042', '42', ' A 1', "line\nbreak", 'Total', null, '']),
                        $pick(['Yes', 'n', '?', "\u{A0}", 'Ã¸st', 'grand total', '']),
                        $pick(['31/12/1998', '1/2/03', '31/02/2003', '00/00/00', '2001-05-06', '']),
                        $pick(['1', '1.204,50-', '1,204.50', '7', '1e5', "$i", null]),
                    ],
                    0,
                    $i % 50 === 7 ? 2 : 4,
                );
        }
        $known = [];
        foreach ([1, 7, 900] as $at) {
            $profile = TableProfile::of(Columns::fromHeaders(['No', 'What', 'When', 'Much']));
            foreach (array_chunk($rows, $at) as $n => $part) {
                $profile->add($n * $at + 1, $part);
            }
            $known[] = $profile->finish(5_000, 200);
        }
        self::assertEquals($known[0], $known[1]);
        self::assertEquals($known[0], $known[2]);
    }

    /** Dates without separators are dates, and those the calendar does not have are found among them. */
    public function test_dates_of_digits_alone(): void
    {
        foreach (['dmy' => '310288', 'ymd' => '880231', 'dmY' => '31021988', 'Ymd' => '19880231'] as $format => $never) {
            $profile = TableProfile::of(Columns::fromHeaders(['no', 'when']));
            $rows = [];
            for ($i = 0; $i < 400; $i++) {
                $rows[] = ["$i", $i % 200 === 100 ? $never : date($format, (int) strtotime("1987-01-01 +$i days"))];
            }
            $profile->add(1, $rows);
            $known = $profile->finish(5_000, 200);
            self::assertSame(['date', $format], [$known->facts[1]->inference->type, $known->facts[1]->inference->detail]);
            $told = array_map(fn ($r) => [$r->code, $r->count, $r->rows], $known->remarks);
            self::assertSame([['mixed_types', 2, [101, 301]]], $told, $format);
        }
        // Numbers of six and eight digits stay numbers.
        foreach (['1%05d', '1987%04d'] as $number) {
            $profile = TableProfile::of(Columns::fromHeaders(['no', 'number']));
            $profile->add(1, array_map(fn ($i) => ["$i", sprintf($number, $i * 17 % 9973)], range(1, 900)));
            self::assertSame('whole', $profile->finish(5_000, 200)->facts[1]->inference->type, $number);
        }
    }

    public function test_what_may_be_a_key_is_hashed_on_the_way(): void
    {
        $rows = [];
        for ($i = 1; $i <= 9_000; $i++) {
            // One that is unique, one that is late to repeat, one that repeats now and then, one too long, one seldom filled.
            $rows[] = ["K$i", 'L'.min($i, 3_000), $i % 60 === 0 ? ' twice' : " N$i ", str_repeat("$i", 20), $i % 3 === 0 ? null : "F$i"];
        }
        $profile = TableProfile::of(Columns::fromHeaders(['a', 'b', 'c', 'd', 'e']));
        $watch = new KeyWatch($profile);
        $hashes = $batches = [];
        foreach (array_chunk($rows, 1_000) as $n => $part) {
            $profile->add($n * 1_000 + 1, $part);
            foreach ($watch->add($part) as $at => $bytes) {
                $hashes[$at] = ($hashes[$at] ?? '').$bytes;
                $batches[$n][] = $at;
            }
        }
        self::assertSame([[0, 1, 2], [0, 1, 2], [0, 1, 2], [0, 2]], array_slice($batches, 0, 4));
        self::assertSame([0, 2], $batches[8]);
        foreach ([0, 2] as $at) {
            $expected = array_map(fn ($cells) => KeyHash::of($cells, [$at]), $rows);
            self::assertSame($expected, str_split(bin2hex($hashes[$at]), 16));
        }
    }

    /** Python's csv module and its collections are the reference, over the demo's craft. */
    public function test_a_profile_agrees_with_an_independent_one(): void
    {
        $folder = sys_get_temp_dir().'/baggage-profile';
        (new Generator(0.5, 3, $folder))->write();
        $script = <<<'PY'
        import csv, json, sys, collections
        rows = list(csv.reader(open(sys.argv[1], encoding='cp1252', newline='')))
        head, body = rows[0], rows[1:]
        out = {}
        for i, h in enumerate(head):
            cells = [r[i] for r in body if len(r) > i and r[i].strip(' ') != '']
            out[h] = [len(cells), len(set(cells)), min(map(len, cells), default=0), max(map(len, cells), default=0),
                max(collections.Counter(cells).values(), default=0)]
        print(json.dumps(out))
        PY;
        exec(
            '/usr/bin/python3 -c '.escapeshellarg($script).' '.escapeshellarg("$folder/BB/craft.txt"),
            $out,
            $code,
        );
        self::assertSame(0, $code);
        $lines = array_map(
            fn ($l) => str_getcsv((string) mb_convert_encoding($l, 'UTF-8', 'Windows-1252'), ',', '"', ''),
            file("$folder/BB/craft.txt", FILE_IGNORE_NEW_LINES) ?: [],
        );
        $profile = TableProfile::of(($columns = Columns::fromHeaders(array_map(strval(...), array_shift($lines)))));
        $profile->add(1, $lines);
        $known = $profile->finish(5_000, 200);
        foreach (json_decode(implode('', $out), true) as $header => [$filled, $distinct, $shortest, $longest, $top]) {
            $position = (int) $columns->find((string) $header)?->position;
            $facts = $known->facts[$position];
            self::assertSame(
                [$filled, $distinct, $shortest, $longest, $top],
                [$facts->filled, $facts->distinct, $facts->shortest, $facts->longest, array_values($known->values[$position])[0] ?? 0],
                (string) $header,
            );
        }
    }

    public function test_rows_that_are_no_data(): void
    {
        $profile = TableProfile::of(Columns::fromHeaders(['Ref', 'Name', 'Sum']));
        $profile->add(1, [
            ['1', 'a', '2'],
            ['Ref', 'Name', 'Sum'],
            ['', ' ', ''],
            ['2', 'Total eclipse', '9'],
            ['', 'Total', '11'],
        ]);
        $found = [];
        foreach ($profile->finish(5_000, 200)->remarks as $finding) {
            $found[$finding->code] = $finding->rows;
        }
        self::assertSame([[2], [3], [5]], [$found['repeated_header'], $found['blank_record'], $found['total_row']]);
    }

    public function test_columns_under_another_header_are_known_by_what_rows_say(): void
    {
        // number, name, flag, other flag, town; the second take has them in another order of rows and columns.
        $old = array_map(
            fn ($i) => ["K$i", "name $i", $i % 2 === 0 ? 'Y' : 'N', $i % 3 === 0 ? 'Y' : 'N', 'Orrin'],
            range(1, 60),
        );
        $new = array_map(
            fn ($r) => [$r[4], $r[0], $r[3], $r[1].($r[0] === 'K9' ? ' jr' : ''), 'N'],
            array_reverse($old),
        );
        // Town and number keep their headers.
        $common = [0 => 4, 1 => 0];
        self::assertEquals(
            [1 => 3, 3 => 2],
            ColumnRenames::of($old, $new, $common, [1, 2, 3], [2, 3, 4]),
            'two columns of yes and no are told apart, and one changed name does not hide the rest',
        );
        self::assertSame([], ColumnRenames::of($old, $new, $common, [2], [4]), 'half of them say the same by chance');
        self::assertSame(
            [1 => 0],
            ColumnRenames::of([['1', 'a'], ['2', 'b']], [['a'], ['b']], [], [0, 1], [0]),
            'without a column in common, row by row',
        );
        self::assertNull(ColumnRenames::of($old, $new, [0 => 0], [1], [3]), 'no row is otherwise the same');
        self::assertNull(
            ColumnRenames::of([['a', 'x'], ['a', 'y']], [['a', 'x']], [0 => 0], [1], [1]),
            'rows that are the same cannot be told apart',
        );
        self::assertSame(
            [],
            ColumnRenames::of([['1', ''], ['2', null]], [['1', ''], ['2', '']], [0 => 0], [1], [1]),
            'nothing is no evidence',
        );
    }

    public function test_key_guesses(): void
    {
        $guess = function (array $names, array $rows): array {
            $facts = array_map(fn ($i) => $this->facts(array_column($rows, $i))->toArray(), array_keys($names));

            return array_map(
                fn ($k) => implode('+', array_map(fn ($i) => $names[$i], $k)),
                KeyGuess::of($names, $facts, count($rows), $rows),
            );
        };
        $rows = array_map(
            fn ($i) => [(string) ($i % 7), sprintf('%03d', intdiv($i, 7)), 'text '.$i % 5, "k$i"],
            range(0, 69),
        );
        self::assertSame('no', $guess(['harb', 'slip', 'remark', 'no'], $rows)[0]);
        self::assertSame(
            'harb+slip',
            $guess(['harb', 'slip', 'remark'], array_map(fn ($r) => array_slice($r, 0, 3), $rows))[0],
        );
        self::assertSame([], $guess(['a', 'b'], array_map(fn ($r) => [$r[0], $r[2]], [...$rows, ...$rows])));
    }

    public function test_reference_guesses(): void
    {
        $codes = $this->facts(array_map(fn ($i) => sprintf('%05d', $i), range(1, 500)))->toArray();
        $small = $this->facts(array_map(fn ($i) => (string) (($i % 40) + 1), range(1, 500)))->toArray();
        $ids = $this->facts(array_map(strval(...), range(1, 500)))->toArray();
        self::assertTrue(ReferenceGuess::possible([$codes], [$codes], ['cust_no'], ['owner_no'], 'people'));
        self::assertFalse(
            ReferenceGuess::possible([$small], [$ids], ['feet'], ['id'], 'people'),
            'small numbers need a name that says so',
        );
        self::assertTrue(ReferenceGuess::possible([$small], [$ids], ['people_id'], ['id'], 'people'));
        $reference = [
            'extract_id' => 3,
            'columns' => '["INV"]',
            'parent_extract_id' => 2,
            'parent_columns' => '["INV"]',
            'values_found' => 90,
            'values_total' => 100,
        ];
        $nearer = ['parent_extract_id' => 1, 'values_found' => 100] + $reference;
        $chain = ['extract_id' => 2, 'parent_extract_id' => 1] + $nearer;
        self::assertSame([$nearer, $chain], ReferenceGuess::best([$reference, $nearer, $chain]));
    }
}
