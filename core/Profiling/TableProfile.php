<?php

namespace Baggage\Core\Profiling;

use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\Remark;
use Baggage\Core\Reading\RowList;

/** Gets to know a table in one pass: its columns, and the rows that are no data. */
final class TableProfile
{
    /** Rows, and cells of all columns, whose values are drawn as strips. */
    private const ROWS = 1_024;

    private const CELLS = 100_000;

    /** What is said of values by their marks. */
    private const SAYS = [
        'stray_spaces' => 'blanks at an end, or two in a row.',
        'mojibake' => 'letters that were read in the wrong encoding before they came here.',
        'control_characters' => 'invisible control characters.',
        'placeholder' => 'words that stand for nothing known, such as n/a or ?.',
    ];

    private const SAYS_OF_NUMBERS = [
        'scientific' => 'numbers a spreadsheet turned into powers of ten, such as 1.2E+05; their digits are lost.',
    ];

    private const SAYS_OF_DATES = [
        'two_digit_year' => 'years of two digits.',
        'sentinel_date' => 'dates that stand for "not known", such as 00/00/00 or 31/12/9999.',
        'impossible_date' => 'dates the calendar does not have.',
    ];

    /**
     * @param  list<string>  $headers
     * @param  list<ColumnProfile>  $columns
     */
    private function __construct(
        private readonly Columns $described,
        private readonly array $headers,
        private readonly int $width,
        private readonly array $columns,
        private readonly Sample $sample,
        private readonly RowList $repeated = new RowList,
        private readonly RowList $totals = new RowList,
        private readonly RowList $blank = new RowList,
    ) {
    }

    public static function of(Columns $columns): self
    {
        $width = $columns->count();
        $budget = new ValueBudget(max(100 * $width, min(300_000, intdiv(60_000_000, max(1, $width)))));

        return new self(
            $columns,
            array_map(fn ($c) => $c->header, $columns->all),
            $width,
            array_map(fn () => ColumnProfile::among($width, $budget), $columns->all),
            new Sample(max(64, min(self::ROWS, intdiv(self::CELLS, max(1, $width))))),
        );
    }

    public function width(): int
    {
        return $this->width;
    }

    /** Whether a column may still identify the rows, so many of which have gone by. */
    public function mayIdentify(int $position, int $rows): bool
    {
        return $this->columns[$position]->mayIdentify($rows);
    }

    /**
     * @param  int  $first  number of the first row
     * @param  list<list<string|null>>  $rows
     */
    public function add(int $first, array $rows): void
    {
        $data = $numbers = [];
        foreach ($rows as $i => $cells) {
            if (self::isHeader($cells, $this->headers)) {
                // Not part of the data, so it does not spoil the profile.
                $this->repeated->add($first + $i);

                continue;
            }
            $data[] = count($cells) < $this->width ? array_pad($cells, $this->width, null) : $cells;
            $numbers[] = $first + $i;
        }
        $this->sample->add($numbers, $data);
        $blanks = $totals = [];
        foreach ($this->columns as $i => $column) {
            [$blank, $total] = $column->add(array_column($data, $i), $numbers);
            foreach ($blank as $place) {
                $blanks[$place] = ($blanks[$place] ?? 0) + 1;
            }
            foreach ($total as $place) {
                $totals[$place] = true;
            }
        }
        $empty = array_keys($blanks, $this->width, true);
        sort($empty);
        foreach ($empty as $place) {
            $this->blank->add($numbers[$place]);
        }
        ksort($totals);
        foreach (array_keys($totals) as $place) {
            if (($this->width - ($blanks[$place] ?? 0)) * 2 <= $this->width + 1) {
                $this->totals->add($numbers[$place]);
            }
        }
    }

    /**
     * @param  list<string|null>  $cells
     * @param  list<string>  $headers
     */
    public static function isHeader(array $cells, array $headers): bool
    {
        return ($cells[0] ?? null) === $headers[0]
            && array_map(fn ($c) => trim((string) $c), array_slice($cells, 0, count($headers))) === $headers;
    }

    /**
     * All rows have gone by.
     *
     * @param  int  $most  different values kept of a column
     * @param  int  $many  kept of one with more
     */
    public function finish(int $most, int $many): Profiled
    {
        $facts = $values = [];
        foreach ($this->columns as $i => $column) {
            $of = $column->values();
            // Of many values only those that recur are worth showing.
            $values[] = $column->isComplete() && count($of) <= $most
                ? $of
                : array_filter(array_slice($of, 0, $many, true), fn (int $n) => $n > 1);
            $known = $column->finish();
            $facts[] = $known->with(Strip::of($this->sample->column($i), $known->inference)?->toArray());
        }

        return new Profiled($facts, $this->findings($facts), $values);
    }

    /**
     * @param  list<ColumnFacts>  $facts
     * @return list<Remark>
     */
    private function findings(array $facts): array
    {
        $found = [];
        $rows = fn (string $code, string $says, RowList $list) => $list->count === 0
            ? null
            : new Remark($code, $says, $list->count, $list->rows);
        $found[] = $rows('repeated_header', 'The header stands again among the rows.', $this->repeated);
        $found[] = $rows('total_row', 'Rows that look like totals, not like records.', $this->totals);
        $found[] = $rows('blank_record', 'Rows in which every cell is blank.', $this->blank);
        foreach ($facts as $i => $f) {
            array_push($found, ...$this->ofColumn($i, $f));
        }

        return array_values(array_filter($found));
    }

    /** @return list<Remark> */
    private function ofColumn(int $i, ColumnFacts $f): array
    {
        $name = $this->described->all[$i]->header;
        $type = $f->inference;
        $says = self::SAYS + ($type->type === 'text' ? [] : self::SAYS_OF_NUMBERS) + ($type->type === 'date' ? self::SAYS_OF_DATES : []);
        $found = [];
        foreach ($says as $code => $text) {
            $list = $f->marked[FindingTest::MARKS[$code]] ?? null;
            if ($list !== null && $list->count > 0) {
                $found[] = new Remark($code, "$name: $text", $list->count, $list->rows, $i);
            }
        }
        if ($type->type === 'date' && $type->ambiguous) {
            $text = 'no date has a day above 12, so day and month cannot be told apart.';
            $found[] = new Remark('ambiguous_date', "$name: $text", $f->filled, [], $i);
        }
        $lost = $this->lostZeros($f);
        if ($lost > 0) {
            $text = 'codes of one length with leading zeros, and shorter ones that seem to have lost theirs.';
            $lostZeros = new Remark('lost_zeros', "$name: $text", $lost, [], $i);
        }

        return [...$found, ...$this->mixed($i, $f, $name), ...isset($lostZeros) ? [$lostZeros] : []];
    }

    /** @return list<Remark> values that break the type of their column */
    private function mixed(int $i, ColumnFacts $f, string $name): array
    {
        $type = $f->inference;
        $impossible = $type->type === 'date' ? ($f->marked[Mark::IMPOSSIBLE_DATE] ?? new RowList)->count : 0;
        if ($type->breaking <= $impossible || $type->mark === null) {
            return [];
        }
        $list = $f->marked[$type->mark];
        $text = number_format($f->filled - $type->breaking)." values are {$type->label()}, these are not.";

        return [new Remark('mixed_types', "$name: $text", $list->count, $list->rows, $i)];
    }

    private function lostZeros(ColumnFacts $f): int
    {
        [$usual, $n] = self::usualLength($f);
        if ($usual < 2 || $n * 2 < $f->filled || ($f->marked[Mark::LEADING_ZERO] ?? new RowList)->count === 0) {
            return 0;
        }
        $short = 0;
        foreach ($f->shapes as $shape => $times) {
            $short += self::isDigits($shape) && strlen($shape) < $usual ? $times : 0;
        }

        return $short * 3 < $n ? $short : 0;
    }

    /** @return array{int, int} digits most values have, and how many have them */
    public static function usualLength(ColumnFacts $f): array
    {
        foreach ($f->shapes as $shape => $times) {
            return self::isDigits($shape) ? [strlen($shape), $times] : [0, 0];
        }

        return [0, 0];
    }

    private static function isDigits(string $shape): bool
    {
        return $shape !== '' && strspn($shape, 'd') === strlen($shape);
    }
}
