<?php

namespace Tests\Core;

use Baggage\Core\Profiling\Profiled;
use Baggage\Core\Profiling\Sample;
use Baggage\Core\Profiling\TableProfile;
use Baggage\Core\Reading\Columns;
use PHPUnit\Framework\TestCase;

/** Small pictures of columns, from rows spread over the table. */
final class StripTest extends TestCase
{
    public function test_the_sample_is_the_same_whatever_pieces_the_rows_come_in(): void
    {
        $rows = array_map(fn (int $n) => ["v$n"], range(1, 5_000));
        $taken = [];
        foreach ([1, 7, 1_000, 5_000] as $size) {
            $sample = new Sample(100);
            foreach (array_chunk($rows, $size) as $i => $some) {
                $sample->add(range($i * $size + 1, $i * $size + count($some)), $some);
            }
            $taken[] = $sample->column(0);
        }
        self::assertCount(1, array_unique($taken, SORT_REGULAR));
        self::assertGreaterThan(50, count($taken[0]));
        self::assertLessThanOrEqual(100, count($taken[0]));
        // From all parts of the table.
        self::assertLessThan(100, (int) substr((string) $taken[0][0], 1));
        self::assertGreaterThan(4_900, (int) substr((string) end($taken[0]), 1));
        self::assertSame([null], (function () {
            $one = new Sample(5);
            $one->add([1], [['a']]);

            return $one->column(3);
        })());
    }

    /**
     * @param  list<string|null>  $cells
     * @return array{kind: string, bars: list<int>, from: string, to: string}|null
     */
    private function strip(array $cells): ?array
    {
        $profile = TableProfile::of(Columns::fromHeaders(['X']));
        $profile->add(1, array_map(fn (?string $c) => [$c], $cells));
        $of = $profile->finish(5_000, 200);
        self::assertInstanceOf(Profiled::class, $of);

        return $of->facts[0]->strip;
    }

    public function test_dates_amounts_values_and_lengths(): void
    {
        $dates = array_map(fn (int $n) => sprintf('%02d/%02d/%d', $n % 28 + 1, $n % 12 + 1, 1990 + $n % 30), range(1, 600));
        $strip = $this->strip([...$dates, '31/12/9999', '00/00/0000', null]);
        self::assertSame(['dates', '1990', '2019'], [$strip['kind'] ?? null, $strip['from'] ?? null, $strip['to'] ?? null]);
        // Thirty years in fifteen bars: two years in each, twenty dates a year.
        self::assertSame(600, array_sum($strip['bars']));
        self::assertLessThan(15, max($strip['bars']) - min($strip['bars']));

        // The minus last, a comma for decimals, points between thousands: common practice of old packages, no source.
        $amounts = array_map(fn (int $n) => number_format($n, 2, ',', '.'), range(1, 900));
        $strip = $this->strip([...$amounts, '150,00-', '149,50-']);
        self::assertSame('amounts', $strip['kind'] ?? null);
        self::assertSame(902, array_sum($strip['bars']));

        // One wild amount does not press the others into one bar.
        $strip = $this->strip([...array_map(fn (int $n) => "$n.25", range(1, 500)), '99999999.99']);
        self::assertGreaterThan(10, count(array_filter($strip['bars'] ?? [], fn (int $n) => $n > 20)));

        self::assertSame(
            ['kind' => 'values', 'bars' => [3, 2, 1], 'from' => 'b', 'to' => 'c'],
            $this->strip(['a', 'b', 'b', 'b', 'a', 'c', null, '']),
        );
        $strip = $this->strip(array_map(fn (int $n) => str_repeat('é', 3 + $n % 20).$n, range(1, 400)));
        self::assertSame('lengths', $strip['kind'] ?? null);
        self::assertNull($this->strip([null, '', ' ']));
        self::assertNull($this->strip(['one']));
    }
}
