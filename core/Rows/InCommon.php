<?php

namespace Baggage\Core\Rows;

/**
 * What rows have in common: values of their other columns that are more frequent among them than among all.
 *
 * How sure that is says the log-likelihood ratio G² of a table of two by two (T. Dunning, "Accurate Methods for the Statistics of
 * Surprise and Coincidence", Computational Linguistics 19(1), 1993): 10.83 is passed by chance once in a thousand (the chi-squared
 * distribution with one degree of freedom).
 */
final readonly class InCommon
{
    public const SURE = 10.83;

    /** Share of the rows that must have a value before it says anything of them. */
    private const LEAST = 0.3;

    /** How much more frequent it must be among them. */
    private const TIMES = 1.5;

    private const YEAR = '/(?<!\d)((?:18|19|20)\d\d)(?!\d)/';

    /**
     * @param  string  $value  or a year and what follows
     * @param  int  $n  rows in question that have it
     * @param  int  $of  so many
     * @param  int  $all  rows of all that have it
     * @param  int  $rows  so many
     */
    private function __construct(
        public int $position,
        public string $value,
        public int $n,
        public int $of,
        public int $all,
        public int $rows,
    ) {
    }

    /**
     * @param  list<list<string|null>>  $some  cells of the rows in question
     * @param  list<list<string|null>>  $all  cells of rows like them, whether in question or not
     * @param  list<int>  $but  positions of columns that say nothing
     * @return list<self> the surest first, one for each column
     */
    public static function of(array $some, array $all, array $but, int $most): array
    {
        if (count($some) < 3 || count($all) <= count($some)) {
            return [];
        }
        $here = self::counted($some, $but);
        $there = self::counted($all, $but);
        $best = [];
        foreach ($here as $position => $values) {
            foreach ($values as $value => $n) {
                $in = $there[$position][$value] ?? 0;
                $g = self::surprise($n, count($some), $in, count($all));
                $isMore = $n / count($some) >= self::LEAST && $n * count($all) >= self::TIMES * $in * count($some);
                if ($isMore && $g >= self::SURE && $g > ($best[$position][0] ?? 0.0)) {
                    $best[$position] = [$g, new self($position, (string) $value, $n, count($some), $in, count($all))];
                }
            }
        }
        usort($best, fn (array $a, array $b) => [$b[0], $a[1]->position] <=> [$a[0], $b[1]->position]);

        return array_slice(array_column($best, 1), 0, $most);
    }

    /** G² of n of so many rows with a value against so many of all; those in question are taken for a part of all. */
    public static function surprise(int $n, int $of, int $in, int $all): float
    {
        $cells = [[$n, $of - $n], [max(0, $in - $n), max(0, ($all - $of) - max(0, $in - $n))]];
        $rows = array_map(array_sum(...), $cells);
        $columns = [$cells[0][0] + $cells[1][0], $cells[0][1] + $cells[1][1]];
        $sum = array_sum($rows);
        $g = 0.0;
        foreach ($cells as $i => $row) {
            foreach ($row as $j => $observed) {
                if ($observed > 0) {
                    $g += 2 * $observed * log($observed * $sum / ($rows[$i] * $columns[$j]));
                }
            }
        }

        return $g;
    }

    /**
     * @param  list<list<string|null>>  $rows
     * @param  list<int>  $but
     * @return array<int, array<array-key, int>> position → value, or the year in it → rows
     */
    private static function counted(array $rows, array $but): array
    {
        $counts = [];
        foreach ($rows as $cells) {
            foreach ($cells as $position => $cell) {
                if (in_array($position, $but, true)) {
                    continue;
                }
                $value = mb_substr(trim((string) $cell), 0, 100);
                $counts[$position][$value] = ($counts[$position][$value] ?? 0) + 1;
                if (strlen($value) > 4 && preg_match(self::YEAR, $value, $m) === 1) {
                    $counts[$position]["$m[1] …"] = ($counts[$position]["$m[1] …"] ?? 0) + 1;
                }
            }
        }

        return $counts;
    }
}
