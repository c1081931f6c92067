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

    public int $missing = 0;

    public int $blank = 0;

    /** @var array<array-key, int> value → count << 16 | marks */
    private array $values = [];

    private bool $full = false;

    private ?DistinctEstimate $estimate = null;

    private int $filled = 0;

    private ?int $shortest = null;

    private int $longest = 0;

    /** Whether some value has characters of more than a byte. */
    private bool $wide = false;

    private ?string $first = null;

    private ?string $last = null;

    private ?float $least = null;

    private ?float $most = null;

    private string $leastText = '';

    private string $mostText = '';

    /** Marks still worth collecting rows for. */
    private int $watch = Mark::ALL & ~Mark::BLANK;

    /** @var array<int, RowList> mark → rows that have it */
    private array $marked = [];

    /** @var array<string, int> shape → rows */
    private array $shapes = [];

    /** @var array<int, int> place in DateShape::FORMATS → values that fit */
    private array $dates = [];

    /** @var array<string, array<int, array{int, string}>> order of day, month and year → earliest and latest */
    private array $dateExtremes = [];

    /** @var list<string> */
    private array $examples = [];

    public function __construct(private readonly ValueBudget $budget)
    {
    }

    /** @return int the marks of the value, 0 for a blank one */
    public function add(?string $cell, int $row): int
    {
        if ($cell === null) {
            $this->missing++;

            return 0;
        }
        if ($cell === '') {
            $this->blank++;

            return 0;
        }
        if (isset($this->values[$cell])) {
            $marks = ($this->values[$cell] += self::ONE) & Mark::ALL;
        } else {
            $marks = $this->meet($cell);
        }
        if (($marks & Mark::BLANK) !== 0) {
            $this->blank++;

            return 0;
        }
        $this->filled++;
        if (($marks & $this->watch) !== 0) {
            $this->notice($marks, $row);
        }

        return $marks;
    }

    private function meet(string $cell): int
    {
        $build = Shape::raw($cell);
        $marks = Mark::of($cell, $build);
        if (($marks & Mark::BLANK) !== 0) {
            $this->values[$cell] = self::ONE | $marks;

            return $marks;
        }
        $bytes = strlen($cell);
        $length = $bytes > $this->longest || $bytes < $this->shortest || $this->shortest === null || $this->wide ? $this->length($cell) : $bytes;
        if ($this->shortest === null || $length < $this->shortest) {
            $this->shortest = $length;
        }
        if ($length > $this->longest) {
            $this->longest = $length;
        }
        if ($this->first === null || $this->last === null) {
            $this->first = $this->last = $cell;
        } elseif (strcmp($cell, $this->first) < 0) {
            $this->first = $cell;
        } elseif (strcmp($cell, $this->last) > 0) {
            $this->last = $cell;
        }
        if (($marks & (Mark::NOT_POINT | Mark::NOT_COMMA)) !== (Mark::NOT_POINT | Mark::NOT_COMMA)) {
            $this->extremes($cell, ($marks & Mark::NOT_POINT) !== 0);
        }
        if (($marks & (Mark::NOT_DATE | Mark::SENTINEL_DATE)) === 0) {
            foreach (DateShape::sortables($cell) as $order => $key) {
                $known = $this->dateExtremes[$order] ?? null;
                if ($known === null) {
                    $this->dateExtremes[$order] = [[$key, $cell], [$key, $cell]];
                } elseif ($key < $known[0][0]) {
                    $this->dateExtremes[$order][0] = [$key, $cell];
                } elseif ($key > $known[1][0]) {
                    $this->dateExtremes[$order][1] = [$key, $cell];
                }
            }
        }
        if (count($this->examples) < 3) {
            $this->examples[] = mb_strcut($cell, 0, 60);
        }
        if (! $this->full && $bytes <= self::LONGEST && $this->budget->take()) {
            $this->values[$cell] = self::ONE | $marks;
            if (count($this->values) >= self::BOUND) {
                $this->overflow();
            }
        } else {
            if (! $this->full) {
                $this->overflow();
            }
            $this->estimate?->add($cell);
            $this->weigh($cell, Shape::ofRaw($build), $marks, 1);
        }

        return $marks;
    }

    private function length(string $cell): int
    {
        if (preg_match('/[\x80-\xFF]/', $cell) === 1) {
            $this->wide = true;

            return mb_strlen($cell);
        }

        return strlen($cell);
    }

    private function overflow(): void
    {
        $this->full = true;
        $this->estimate = new DistinctEstimate;
        foreach ($this->values as $value => $v) {
            $this->estimate->add((string) $value);
        }
    }

    private function extremes(string $cell, bool $comma): void
    {
        $number = (float) ($comma ? strtr($cell, ['.' => '', ',' => '.', ' ' => '']) : strtr($cell, [',' => '', ' ' => '']));
        if (str_ends_with(rtrim($cell), '-')) {
            $number = -abs($number);
        }
        if ($this->least === null || $number < $this->least) {
            [$this->least, $this->leastText] = [$number, $cell];
        }
        if ($this->most === null || $number > $this->most) {
            [$this->most, $this->mostText] = [$number, $cell];
        }
    }

    private function notice(int $marks, int $row): void
    {
        for ($bits = $marks & $this->watch; $bits !== 0; $bits &= $bits - 1) {
            $mark = $bits & -$bits;
            ($this->marked[$mark] ??= new RowList)->add($row);
            // A doubt that most rows share tells nothing about single ones, such as "is no date" in a column of names.
            if ($mark <= Mark::NOT_YES_NO && $this->marked[$mark]->count > RowList::KEPT && $this->marked[$mark]->count * 3 > $this->filled) {
                $this->watch &= ~$mark;
            }
        }
    }

    private function weigh(string $value, string $shape, int $marks, int $times): void
    {
        if (isset($this->shapes[$shape])) {
            $this->shapes[$shape] += $times;
        } elseif (count($this->shapes) < self::SHAPES) {
            $this->shapes[$shape] = $times;
        } else {
            $this->shapes[Shape::OTHER] = ($this->shapes[Shape::OTHER] ?? 0) + $times;
        }
        if (($marks & Mark::NOT_DATE) === 0) {
            foreach (DateShape::places($value) as $at) {
                $this->dates[$at] = ($this->dates[$at] ?? 0) + $times;
            }
        }
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
        $distinct = 0;
        foreach ($this->values as $value => $v) {
            if (($v & Mark::BLANK) === 0) {
                $distinct++;
                $this->weigh((string) $value, Shape::of((string) $value), $v & Mark::ALL, $v >> 16);
            }
        }
        arsort($this->shapes);
        // A doubt no longer collected is shared by too many rows to be one.
        $general = [];
        foreach (array_keys($this->marked) as $mark) {
            if (($this->watch & $mark) === 0) {
                $general[] = $mark;
                unset($this->marked[$mark]);
            }
        }
        $inference = Inference::of($this->filled, $this->full ? null : $distinct, $this->marked, $general, $this->dates, $this->longest, $this->shapes);
        [$smallest, $largest] = match ($inference->type) {
            'whole', 'decimal' => [$this->leastText, $this->mostText],
            'date' => array_map(fn (?array $e) => $e[1] ?? null, [$this->dateExtremes[strtolower($inference->detail[0] ?? 'y')][0] ?? null, $this->dateExtremes[strtolower($inference->detail[0] ?? 'y')][1] ?? null]),
            default => [$this->first, $this->last],
        };

        return new ColumnFacts(
            $this->filled, $this->blank, $this->missing, $this->full ? (int) $this->estimate?->estimate() : $distinct, $this->full, $this->shortest ?? 0, $this->longest,
            $smallest === null ? null : mb_strcut($smallest, 0, 100), $largest === null ? null : mb_strcut($largest, 0, 100),
            $this->examples, array_slice($this->shapes, 0, 12, true), $inference, $this->marked,
        );
    }
}
