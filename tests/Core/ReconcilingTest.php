<?php

namespace Tests\Core;

use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\Context;
use Baggage\Core\Loading\CrosswalkStore;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reconciling\Amount;
use Baggage\Core\Reconciling\Comparing;
use Baggage\Core\Reconciling\ControlTotal;
use Baggage\Core\Reconciling\CountedRow;
use Baggage\Core\Reconciling\ExactSum;
use Baggage\Core\Reconciling\Figures;
use Baggage\Core\Reconciling\GroupBy;
use Baggage\Core\Reconciling\GroupKeys;
use Baggage\Core\Reconciling\LoadTotal;
use Baggage\Core\Reconciling\Part;
use Baggage\Core\Reconciling\Reading;
use Baggage\Core\Reconciling\Sample;
use Baggage\Core\Reconciling\SampleSize;
use Baggage\Core\Reconciling\TotalCount;
use Baggage\Core\Reconciling\TotalKind;
use Baggage\Core\Reconciling\TotalStore;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

/** Control totals, comparisons and samples, against Python's decimal, zlib and a published table. */
final class ReconcilingTest extends TestCase
{
    public function test_sums_are_those_of_pythons_decimal(): void
    {
        mt_srand(20);
        $numbers = [];
        for ($i = 0; $i < 20_000; $i++) {
            $digits = ltrim((string) mt_rand(0, 10 ** mt_rand(1, 12)), '0') ?: '0';
            $long = mt_rand(0, 40) === 0 ? str_repeat((string) mt_rand(1, 9), mt_rand(5, 30)) : '';
            $numbers[] = ['', '-', '+'][mt_rand(0, 2)].$digits.$long.['', '.', '.'.str_pad((string) mt_rand(0, 9999), 4, '0', STR_PAD_LEFT),
                '.'.mt_rand(0, 99)][mt_rand(0, 3)];
        }
        array_push($numbers, '9223372036854775807', '9223372036854775807', '-.5', '999999999999999');
        $sum = new ExactSum;
        $back = new ExactSum;
        foreach ($numbers as $i => $number) {
            $sum->add($number);
            $i % 2 === 0 ? $back->take($number) : $back->add($number);
        }
        $says = <<<'PY'
            import sys
            from decimal import Decimal, getcontext
            getcontext().prec = 200
            all = [Decimal(line.strip()) for line in sys.stdin]
            print(sum(all)); print(sum(-n if i % 2 == 0 else n for i, n in enumerate(all)))
            PY;
        $process = proc_open(['python3', '-c', $says], [['pipe', 'r'], ['pipe', 'w'], STDERR], $pipes);
        fwrite($pipes[0], implode("\n", $numbers));
        fclose($pipes[0]);
        [$expected, $turned] = explode("\n", (string) stream_get_contents($pipes[1]));
        proc_close($process);
        self::assertSame(0, bccomp($expected, $sum->total(), 30), "$expected, {$sum->total()}");
        self::assertSame(0, bccomp($turned, $back->total(), 30), "$turned, {$back->total()}");
    }

    /**
     * AICPA Audit Guide, Audit Sampling, tables A-1 and A-2: sizes of samples where no deviation is expected, by the tolerable rate; value
     * from memory. The table is of large populations.
     *
     * @return iterable<string, array{float, array<int, int>}>
     */
    public static function sizes(): iterable
    {
        yield '95 %' => [0.95, [2 => 149, 3 => 99, 4 => 74, 5 => 59, 6 => 49, 7 => 42, 8 => 36, 9 => 32, 10 => 29, 15 => 19, 20 => 14]];
        yield '90 %' => [0.90, [2 => 114, 3 => 76, 4 => 57, 5 => 45, 6 => 38, 7 => 32, 8 => 28, 9 => 25, 10 => 22, 15 => 15, 20 => 11]];
    }

    /** @param  array<int, int>  $table */
    #[DataProvider('sizes')]
    public function test_samples_are_as_large_as_the_published_table_says(float $confidence, array $table): void
    {
        foreach ($table as $percent => $size) {
            self::assertSame($size, SampleSize::of(10_000_000, $confidence, $percent / 100), "$percent %");
        }
    }

    public function test_a_sample_of_few_records_is_the_smallest_that_shows_it(): void
    {
        // By multiplying out the hypergeometric chance in exact fractions, for each size in turn.
        $cases = [[20, 0.9, 0.1], [50, 0.95, 0.02], [100, 0.99, 0.05], [7, 0.9, 0.5], [1, 0.95, 0.01], [300, 0.95, 0.01]];
        foreach ($cases as [$of, $c, $p]) {
            $wrong = (int) ceil($of * $p);
            for ($n = 0, $chance = '1'; bccomp($chance, (string) (1 - $c), 30) > 0; $n++) {
                $chance = $of - $wrong - $n <= 0 ? '0' : bcmul($chance, bcdiv((string) ($of - $wrong - $n), (string) ($of - $n), 40), 40);
            }
            self::assertSame($n, SampleSize::of($of, $c, $p), "$of, $c, $p");
            self::assertLessThanOrEqual($wrong / $of + 1e-9, SampleSize::shown($of, $n, $c));
        }
        self::assertSame(0.0, SampleSize::shown(10, 10, 0.95));
    }

    public function test_a_sample_is_drawn_again_by_its_seed_and_favours_nobody(): void
    {
        self::assertSame(Sample::draw(1_000, 40, 7), Sample::draw(1_000, 40, 7));
        self::assertNotSame(Sample::draw(1_000, 40, 7), Sample::draw(1_000, 40, 8));
        self::assertSame([0, 1, 2], Sample::draw(3, 10, 1));
        $times = array_fill(0, 20, 0);
        for ($seed = 0; $seed < 4_000; $seed++) {
            $drawn = Sample::draw(20, 5, $seed);
            self::assertCount(5, array_unique($drawn));
            foreach ($drawn as $place) {
                $times[$place]++;
            }
        }
        // Chi squared with 19 degrees of freedom is above 43.82 once in a thousand (NIST/SEMATECH e-Handbook, 1.3.6.7.4).
        self::assertLessThan(43.82, array_sum(array_map(fn ($n) => ($n - 1_000) ** 2 / 1_000, $times)));
    }

    /** @return iterable<array{array<string, mixed>, string|null, string|null, string|null}> field, sent, is, class; null: the same */
    public static function differences(): iterable
    {
        $text = ['name' => 'f', 'kind' => 'text', 'length' => 100];
        $money = ['name' => 'f', 'kind' => 'decimal', 'precision' => 12, 'scale' => 4];
        $date = ['name' => 'f', 'kind' => 'date'];
        $moment = ['name' => 'f', 'kind' => 'datetime'];
        yield [$text, 'Skerry Boatyard', 'Skerry Boat', 'cut to 11 characters'];
        yield [$text, 'Skarv ', 'Skarv', null];
        yield [$text, 'Skarv', 'SKARV', 'other capitals'];
        yield [$text, "B\u{E9}", "Be\u{301}", 'signs written another way'];
        yield [$text, 'Bjørn', 'Bj?rn', 'signs lost'];
        yield [$text, 'Bjørn', 'BjÃ¸rn', 'signs misread'];
        yield [$text, 'Åsa', 'Asa', 'accents lost or added'];
        yield [$text, 'a  b', 'a b', 'other blanks'];
        yield [$text, 'Skarv', 'Skarv II', 'something added at the end'];
        yield [$text, 'Skarv', 'Tern', 'another text'];
        yield [$text, 'Skarv', null, 'left empty'];
        yield [$text, null, 'Skarv', 'filled in'];
        yield [$money, '12.50', '12.5000', null];
        yield [$money, '12.5049', '12.50', 'rounded'];
        yield [$money, '12.5050', '12.51', 'rounded'];
        yield [$money, '12.5090', '12.50', 'decimals cut off'];
        yield [$money, '12.5', '-12.5', 'sign turned'];
        yield [$money, '1250', '12.5', 'decimal sign moved'];
        yield [$money, '12.50', '12.49', 'another number'];
        yield [$date, '2003-02-28', '2003-03-01', 'a day later'];
        yield [$date, '2003-03-01', '2003-02-28', 'a day earlier'];
        yield [$date, '2003-04-07', '2003-07-04', 'day and month exchanged'];
        yield [$date, '1928-07-04', '2028-07-04', 'another century'];
        yield [$date, '2003-04-07', '0000-00-00', 'no date'];
        yield [$moment, '2003-04-07 09:05:00', '2003-04-07 00:00:00', 'time of day lost'];
        yield [$moment, '2003-04-07 09:05:00', '2003-04-07 07:05:00', 'another time of day'];
        yield [$moment, '2003-04-07 23:05:00', '2003-04-08 01:05:00', 'shifted by hours'];
        yield [$date, '2003-04-07', '2003-04-07 00:00:00', null];
        yield [['name' => 'f', 'kind' => 'boolean'], '1', '1', null];
        yield [['name' => 'f', 'kind' => 'integer', 'refers' => 'parties'], '1', '01', 'another record'];
    }

    /** @param  array<string, mixed>  $field */
    #[DataProvider('differences')]
    public function test_a_difference_is_told_by_its_kind(array $field, ?string $sent, ?string $is, ?string $class): void
    {
        $field = Field::fromArray($field);
        self::assertSame($class === null, Comparing::isSame($field, $sent, $is));
        if ($class !== null) {
            self::assertSame($class, Comparing::difference($field, $sent, $is));
        }
    }

    #[TestWith([TotalKind::Sum])]
    #[TestWith([TotalKind::Count])]
    #[TestWith([TotalKind::Hash])]
    public function test_parts_add_up_to_the_raw_total_whatever_rows_are(TotalKind $kind): void
    {
        mt_srand(31);
        $rows = self::rows();
        [$count, $store] = self::counted($kind, $rows);
        $raw = array_map(fn (CountedRow $r) => $r->raw[0] ?? 'none', $rows);
        $target = array_map(fn (CountedRow $r) => $r->record['amount'] ?? 'none', $rows);
        self::assertSame(0, bccomp(self::plain($kind, $raw), $count->whole->sum(Figures::RAW), 2), $kind->value);
        self::assertSame(0, bccomp(self::plain($kind, $target), $count->whole->sum(Figures::TARGET), 2), $kind->value);
        self::assertTrue($count->whole->isConserved());
        $sums = ['raw' => '0', 'target' => '0', 'as is' => '0'];
        foreach ($store->groups as $group => $figures) {
            self::assertTrue($figures->isConserved(), "$kind->value of $group");
            foreach ($sums as $slot => $sum) {
                $sums[$slot] = bcadd($sum, $figures->sum($slot), 2);
            }
        }
        foreach ($sums as $slot => $sum) {
            self::assertSame(0, bccomp($sum, $count->whole->sum($slot), 2), "$kind->value, $slot");
        }
        // What is missing in the target is the difference, to the last cent, and the rows say it.
        $missing = array_filter($rows, fn (CountedRow $r) => $r->made !== null && $r->record === null && is_numeric($r->made[0]));
        self::assertSame(count($missing), count($store->rows));
        $back = Figures::fromArray(json_decode((string) json_encode($count->whole->toArray()), true));
        self::assertSame($count->whole->toArray(), $back->toArray());
        $gone = self::plain($kind, array_map(fn ($r) => (string) ($r->made[0] ?? ''), $missing));
        self::assertSame(0, bccomp($gone, bcmul('-1', (string) $back->difference($kind), 2), 2));
    }

    /** @return list<CountedRow> any that may be */
    private static function rows(): array
    {
        $cells = fn () => [
            ['12.50', '7', '', 'none', '-3.25', '1200', '0.01'][mt_rand(0, 6)],
            (string) mt_rand(1998, 2001).'-05-0'.mt_rand(1, 9),
        ];
        $rows = [];
        for ($i = 1; $i <= 2_000; $i++) {
            $part = [...Part::cases(), null][mt_rand(0, 9)];
            $read = $cells();
            $now = mt_rand(0, 9) === 0 ? $cells() : $read;
            $made = match ($part) {
                Part::AsIs => $now, Part::Older, null => $cells(), default => null
            };
            $isNumber = $made !== null && is_numeric($made[0]);
            $record = $made === null || mt_rand(0, 50) === 0 ? null : [
                'amount' => $isNumber ? number_format((float) $made[0], 2, '.', '') : null, 'issued' => $made[1],
            ];
            $rows[] = new CountedRow($i, $part, $part === null ? null : $read, $part === null ? null : $now, $made, "$i", $record);
        }

        return $rows;
    }

    /**
     * @param  list<CountedRow>  $rows
     * @return array{TotalCount, object}
     */
    private static function counted(TotalKind $kind, array $rows): array
    {
        $entity = Entity::fromArray(['name' => 'bills', 'key' => 'id', 'fields' => [
            ['name' => 'amount', 'kind' => 'decimal', 'precision' => 14, 'scale' => 2], ['name' => 'issued', 'kind' => 'date'],
        ], 'uniques' => []]);
        $compiler = new Compiler(Columns::fromHeaders(['Amount', 'Issued']));
        $reading = fn (string $e) => new Reading($compiler->compile($e), new Context);
        $total = new ControlTotal('t', 'bills', null, $kind, 'amount', 'amount', 'issued', GroupBy::Year, 'year(issued)');
        $store = self::store();
        $count = TotalCount::of(1, $total, new Amount($kind, $entity->fields['amount']), $store);
        $keys = new GroupKeys(self::nobody(), []);
        (new LoadTotal($count, 1, $entity, $reading('decimal(amount)'), $reading('year(issued)'), $keys))->page($rows);
        $count->flush();
        array_map($count->join(...), $store->groups);

        return [$count, $store];
    }

    /**
     * The same without any of it.
     *
     * @param  array<string>  $values
     */
    private static function plain(TotalKind $kind, array $values): string
    {
        $sum = '0';
        foreach (array_filter($values, is_numeric(...)) as $value) {
            $sum = bcadd($sum, match ($kind) {
                TotalKind::Sum => $value,
                TotalKind::Count => '1',
                // ITU-T V.42, by PHP's own hash extension.
                default => (string) hexdec(hash('crc32b', number_format((float) $value, 2, '.', ''))),
            }, 2);
        }

        return $sum;
    }

    private static function store(): TotalStore
    {
        return new class implements TotalStore
        {
            /** @var array<array-key, Figures> */
            public array $groups = [];

            /** @var list<int> */
            public array $rows = [];

            public function groups(int $total, array $groups): void
            {
                $this->groups += $groups;
            }

            public function value(int $total, string $side, string $group, string $value): void
            {
            }

            public function differs(int $total, int $load, int $row, string $group, ?string $legacy, ?string $target): void
            {
                $this->rows[] = $row;
            }
        };
    }

    private static function nobody(): CrosswalkStore
    {
        return new class implements CrosswalkStore
        {
            public function states(string $entity, string $space, array $keys): array
            {
                return [];
            }

            public function holders(string $entity, array $keys): array
            {
                return [];
            }
        };
    }
}
