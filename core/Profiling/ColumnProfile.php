<?php

namespace Baggage\Core\Profiling;

use Baggage\Core\Reading\RowList;

/**
 * Gets to know one column as its cells go by, in bounded memory.
 *
 * Up to a bound every different value is counted exactly. Beyond it the values met first go on being counted exactly, the
 * number of different ones is estimated (DistinctEstimate), and all other figures stay exact.
 */
final class ColumnProfile
{
    /** Different values counted one by one in one column. */
    public const BOUND = 20_000;

    /** Longer values are not counted one by one. */
    private const LONGEST = 190;

    private const ONE = 1 << 16;

    private const SHAPES = 300;

    /** Numbers of rows that all columns of a table together keep. */
    private const ROWS = 400_000;

    /** Marks of one column that are seldom met together. */
    private const MARKS = 4;

    public int $missing = 0;

    public int $blank = 0;

    /** @var array<array-key, int> value → count << 16 | marks */
    private array $values = [];

    private bool $full = false;

    private ?DistinctEstimate $estimate = null;

    private int $filled = 0;

    /** Values that were new when they came; beyond the bound some of them are not. */
    private int $met = 0;

    private ?int $shortest = null;

    private int $longest = 0;

    /** Whether some value has characters of more than a byte. */
    private bool $wide = false;

    /** Marks still worth collecting rows for. */
    private int $watch = Mark::ALL & ~Mark::BLANK;

    /** @var array<int, RowList> mark → rows that have it */
    private array $marked = [];

    /** @var array<string, int> shape → rows */
    private array $shapes = [];

    /** @var array<int, int> place in DateShape::FORMATS → values that fit */
    private array $dates = [];

    /** @var list<string> */
    private array $examples = [];

    private readonly Extremes $extremes;

    /** @param  int  $kept  rows kept of each mark */
    public function __construct(private readonly ValueBudget $budget, private readonly int $kept = RowList::KEPT)
    {
        $this->extremes = new Extremes;
    }

    /** One of a table of so many columns: the more there are, the less each keeps. */
    public static function among(int $columns, ValueBudget $budget): self
    {
        return new self($budget, max(50, min(RowList::KEPT, intdiv(self::ROWS, self::MARKS * $columns))));
    }

    /**
     * @param  list<string|null>  $cells
     * @param  list<int>  $rows  their row numbers
     * @return array{list<int>, list<int>} places of the cells that are blank, and of those that speak of a total
     */
    public function add(array $cells, array $rows): array
    {
        $missing = array_keys($cells, null, true);
        $blank = array_keys($cells, '', true);
        $this->missing += count($missing);
        $this->blank += count($blank);
        if ($missing !== []) {
            $blank = [...$missing, ...$blank];
        }
        /** @var array<int, string> $filled */
        $filled = $blank === [] ? $cells : array_diff_key($cells, array_flip($blank));
        $watch = $this->watch | Mark::BLANK | Mark::TOTAL_WORD;
        $odd = $new = [];
        foreach (array_count_values($filled) as $value => $times) {
            if (! isset($this->values[$value])) {
                $new[$value] = $times;

                continue;
            }
            $marks = ($this->values[$value] += $times * self::ONE) & Mark::ALL;
            if (($marks & $watch) !== 0) {
                $odd[$value] = $marks;
            }
        }
        if ($new !== []) {
            $this->met += count($new);
            $odd += $this->meet($new, $watch);
        }
        $this->filled += count($filled);

        return $odd === [] ? [$blank, []] : $this->notice($filled, $odd, $rows, $blank);
    }

    /**
     * Values not counted yet.
     *
     * @param  non-empty-array<array-key, int>  $new  value → rows
     * @return array<array-key, int> value → marks, of those with marks to look out for
     */
    private function meet(array $new, int $watch): array
    {
        $odd = $uncounted = $weights = $alike = [];
        [$numbers, $at] = [[[], []], 0];
        $builds = Shape::rawOfAll(array_keys($new));
        foreach ($new as $cell => $times) {
            $cell = (string) $cell;
            $build = $builds[$at++];
            if (isset($alike[$build]) && ! isset(Mark::TELLING[$cell[0]])) {
                // Another of a build whose values all have the same marks and length.
                $marks = $alike[$build];
                $uncounted[] = $cell;
                $weights[$build] += $times;
            } else {
                $marks = Mark::of($cell, $build);
                if (($marks & $watch) !== 0) {
                    $odd[$cell] = $marks;
                }
                if (($marks & Mark::BLANK) !== 0) {
                    $this->values[$cell] = ($times * self::ONE) | $marks;
                    unset($new[$cell]);
                } elseif (! $this->counted($cell, $times, $marks)) {
                    $uncounted[] = $cell;
                    $weights[$build] = ($weights[$build] ?? 0) + $times;
                    if (($marks & $watch) === 0 && Mark::alike($build)) {
                        $alike[$build] = $marks;
                    }
                }
            }
            if (($marks & (Mark::NOT_POINT | Mark::NOT_COMMA)) !== (Mark::NOT_POINT | Mark::NOT_COMMA)) {
                $numbers[($marks & Mark::NOT_POINT) >> 1][] = $cell;
            }
        }
        $this->extremes->texts(array_keys($new));
        $this->extremes->numbers($numbers[0], [',', ' '], ['', '']);
        $this->extremes->numbers($numbers[1], ['.', ' ', ','], ['', '', '.']);
        $this->estimated($uncounted, $weights);

        return $odd;
    }

    /**
     * @param  list<string>  $values
     * @param  array<array-key, int>  $weights  build → rows
     */
    private function estimated(array $values, array $weights): void
    {
        $this->estimate?->add($values);
        foreach ($weights as $build => $times) {
            $this->weigh(Shape::ofRaw((string) $build), $times);
        }
    }

    /** Looks closely at a new value, and counts it one by one from now on where there is room. */
    private function counted(string $cell, int $times, int $marks): bool
    {
        $this->measure($cell);
        if (($marks & (Mark::NOT_DATE | Mark::SENTINEL_DATE)) === 0) {
            $this->extremes->date($cell);
        }
        if (count($this->examples) < 3) {
            $this->examples[] = mb_strcut($cell, 0, 60);
        }
        if ($this->counts($cell)) {
            $this->values[$cell] = ($times * self::ONE) | $marks;

            return true;
        }
        if (($marks & Mark::NOT_DATE) === 0) {
            $this->weighDate($cell, $times);
        }

        return false;
    }

    /** Whether a new value is one of those counted one by one. */
    private function counts(string $cell): bool
    {
        if ($this->full) {
            return false;
        }
        if (strlen($cell) <= self::LONGEST && count($this->values) < self::BOUND && $this->budget->take()) {
            return true;
        }
        $this->full = true;
        $this->estimate = new DistinctEstimate;
        $this->estimate->add(array_keys($this->values));

        return false;
    }

    private function measure(string $cell): void
    {
        $bytes = strlen($cell);
        if ($bytes > $this->longest || $bytes < $this->shortest || $this->shortest === null || $this->wide) {
            if (preg_match('/[\x80-\xFF]/', $cell) === 1) {
                $this->wide = true;
                $bytes = mb_strlen($cell);
            }
            $this->shortest = min($this->shortest ?? $bytes, $bytes);
            $this->longest = max($this->longest, $bytes);
        }
    }

    /**
     * @param  array<int, string>  $filled  place → cell
     * @param  array<array-key, int>  $odd  value → marks, of those with marks to look out for
     * @param  list<int>  $rows
     * @param  list<int>  $blank  places
     * @return array{list<int>, list<int>} as add()
     */
    private function notice(array $filled, array $odd, array $rows, array $blank): array
    {
        $totals = [];
        foreach ($filled as $place => $cell) {
            $marks = $odd[$cell] ?? 0;
            if ($marks === 0) {
                continue;
            }
            if (($marks & Mark::BLANK) !== 0) {
                $this->blank++;
                $this->filled--;
                $blank[] = $place;

                continue;
            }
            if (($marks & Mark::TOTAL_WORD) !== 0) {
                $totals[] = $place;
            }
            for ($bits = $marks & $this->watch; $bits !== 0; $bits &= $bits - 1) {
                ($this->marked[$bits & -$bits] ??= new RowList($this->kept))->add($rows[$place]);
            }
        }
        foreach ($this->marked as $mark => $list) {
            // A doubt that most rows share tells nothing about single ones, such as "is no date" in a column of names.
            if ($mark <= Mark::NOT_YES_NO && $list->count > RowList::KEPT && $list->count * 3 > $this->filled) {
                $this->watch &= ~$mark;
            }
        }

        return [$blank, $totals];
    }

    private function weigh(string $shape, int $times): void
    {
        if (isset($this->shapes[$shape])) {
            $this->shapes[$shape] += $times;
        } elseif (count($this->shapes) < self::SHAPES) {
            $this->shapes[$shape] = $times;
        } else {
            $this->shapes[Shape::OTHER] = ($this->shapes[Shape::OTHER] ?? 0) + $times;
        }
    }

    private function weighDate(string $value, int $times): void
    {
        foreach (DateShape::places($value) as $at) {
            $this->dates[$at] = ($this->dates[$at] ?? 0) + $times;
        }
    }

    /** Whether nearly every one of so many rows may still turn out to have a value of its own, short enough for a key. */
    public function mayIdentify(int $rows): bool
    {
        return $this->longest <= KeyGuess::LONGEST && ($rows - $this->met) * KeyGuess::SHARE <= $rows + 100 * KeyGuess::SHARE;
    }

    /** Exact counts of single values, or of those met first when there are more than the bound. */
    public function isComplete(): bool
    {
        return ! $this->full;
    }

    /** @return array<array-key, int> value → rows, the most frequent first */
    public function values(): array
    {
        $counts = [];
        foreach ($this->values as $value => $v) {
            if (($v & Mark::BLANK) === 0) {
                $counts[$value] = $v >> 16;
            }
        }
        arsort($counts);

        return $counts;
    }

    /** What is known once all rows have gone by. */
    public function finish(): ColumnFacts
    {
        $distinct = $this->weighCounted();
        arsort($this->shapes);
        // A doubt no longer collected is shared by too many rows to be one.
        $general = [];
        foreach (array_keys($this->marked) as $mark) {
            if (($this->watch & $mark) === 0) {
                $general[] = $mark;
                unset($this->marked[$mark]);
            }
        }
        $inference = Inference::of(
            $this->filled,
            $this->full ? null : $distinct,
            $this->marked,
            $general,
            $this->dates,
            $this->longest,
            $this->shapes,
        );
        [$smallest, $largest] = $this->extremes->of($inference);

        return new ColumnFacts(
            $this->filled,
            $this->blank,
            $this->missing,
            $this->full ? (int) $this->estimate?->estimate() : $distinct,
            $this->full,
            $this->shortest ?? 0,
            $this->longest,
            $smallest === null ? null : mb_strcut($smallest, 0, 100),
            $largest === null ? null : mb_strcut($largest, 0, 100),
            $this->examples,
            array_slice($this->shapes, 0, 12, true),
            $inference,
            $this->marked,
        );
    }

    /** @return int how many different values were counted one by one */
    private function weighCounted(): int
    {
        $distinct = 0;
        foreach ($this->values as $value => $v) {
            if (($v & Mark::BLANK) === 0) {
                $distinct++;
                $this->weigh(Shape::of((string) $value), $v >> 16);
                if (($v & Mark::NOT_DATE) === 0) {
                    $this->weighDate((string) $value, $v >> 16);
                }
            }
        }

        return $distinct;
    }
}
