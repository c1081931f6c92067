<?php

namespace App\Freezing;

use Illuminate\Support\Facades\DB;

/**
 * Two takes beside each other, row by row by the hashes of what they say: where a row is said again in the same order it is the same,
 * though rows came or went above it. Found in one walk over both, looking a little ahead where they differ.
 */
final class Alignment
{
    /** Rows looked ahead. */
    private const AHEAD = 256;

    private const PAGE = 20_000;

    /** Rows told at a time. */
    private const TOLD = 5_000;

    /** Runs that are kept: what lies beyond so many is told as not found. */
    private const RUNS = 50_000;

    /** @var list<array{int, int, int}> first and last row of the new take that are so many numbers above those of the old one, not none */
    private array $runs = [];

    /** @var array<int, list<int>> take → rows that are not found so, and not told yet */
    private array $unknown = [];

    /** @var array<int, array{list<int>, list<string>, int}> take → rows and hashes that were read, and how many of them are done with */
    private array $read = [];

    /** @var array<int, int> take → the last row that was read */
    private array $last;

    /** @param  \Closure(int, non-empty-list<int>): void  $tell  told the take and some of its rows that are not found in the other */
    private function __construct(private readonly int $new, private readonly int $old, private readonly \Closure $tell)
    {
        $this->read = [$new => [[], [], 0], $old => [[], [], 0]];
        $this->unknown = [$new => [], $old => []];
        $this->last = [$new => 0, $old => 0];
    }

    /**
     * @param  \Closure(int, non-empty-list<int>): void  $tell  told the take and some of its rows that are not found in the other
     * @return list<array{int, int, int}> first and last row of the new take that are so many numbers above those of the old one, in their
     *                                    order; those that are none above are left out
     */
    public static function of(int $new, int $old, \Closure $tell): array
    {
        $alignment = new self($new, $old, $tell);
        $alignment->walk();
        $alignment->told($new, 1);
        $alignment->told($old, 1);

        return $alignment->runs;
    }

    private function walk(): void
    {
        while (true) {
            $this->fill($this->new);
            $this->fill($this->old);
            [$rows, $hashes, $i] = $this->read[$this->new];
            [$numbers, $olds, $j] = $this->read[$this->old];
            [$n, $m] = [count($rows), count($numbers)];
            // As far as there is something to look ahead to, or nothing more comes.
            $isLast = $n - $i <= self::AHEAD || $m - $j <= self::AHEAD;
            while ($i < $n && $j < $m && ($isLast || ($n - $i > self::AHEAD && $m - $j > self::AHEAD))) {
                if ($hashes[$i] === $olds[$j]) {
                    $this->same($rows[$i++], $numbers[$j++]);

                    continue;
                }
                [$came, $went] = self::ahead($hashes, $i, $olds, $j);
                $this->missing($this->new, array_slice($rows, $i, $came));
                $this->missing($this->old, array_slice($numbers, $j, $went));
                [$i, $j] = [$i + $came, $j + $went];
            }
            if ($isLast) {
                $this->missing($this->new, array_slice($rows, $i));
                $this->missing($this->old, array_slice($numbers, $j));
                $this->rest();

                return;
            }
            [$this->read[$this->new][2], $this->read[$this->old][2]] = [$i, $j];
        }
    }

    private function same(int $row, int $number): void
    {
        if ($row === $number) {
            return;
        }
        $last = array_key_last($this->runs);
        if ($last !== null && $this->runs[$last][1] === $row - 1 && $this->runs[$last][2] === $row - $number) {
            $this->runs[$last][1] = $row;
        } elseif ($last >= self::RUNS) {
            $this->missing($this->new, [$row]);
            $this->missing($this->old, [$number]);
        } else {
            $this->runs[] = [$row, $row, $row - $number];
        }
    }

    /** @param  list<int>  $rows */
    private function missing(int $take, array $rows): void
    {
        array_push($this->unknown[$take], ...$rows);
        $this->told($take, self::TOLD);
    }

    private function told(int $take, int $from): void
    {
        while (count($this->unknown[$take]) >= $from) {
            $some = array_splice($this->unknown[$take], 0, self::TOLD);
            ($this->tell)($take, $some);
        }
    }

    /**
     * Where they agree again: after as many changed rows, after rows that came, or after rows that went.
     *
     * @param  list<string>  $new
     * @param  list<string>  $old
     * @return array{int, int} rows of the new and of the old one until there
     */
    private static function ahead(array $new, int $i, array $old, int $j): array
    {
        for ($n = 1; $n < self::AHEAD; $n++) {
            if (isset($new[$i + $n], $old[$j + $n]) && $new[$i + $n] === $old[$j + $n]) {
                return [$n, $n];
            }
            if (isset($new[$i + $n]) && $new[$i + $n] === $old[$j]) {
                return [$n, 0];
            }
            if (isset($old[$j + $n]) && $new[$i] === $old[$j + $n]) {
                return [0, $n];
            }
        }

        return [1, 1];
    }

    /** Whatever of either is left when the other has ended. */
    private function rest(): void
    {
        foreach ([$this->new, $this->old] as $take) {
            while (($page = $this->page($take)) !== []) {
                $this->missing($take, array_map(intval(...), array_column($page, 0)));
            }
        }
    }

    /** Reads on where less is left than is looked ahead to. */
    private function fill(int $take): void
    {
        [$rows, $hashes, $done] = $this->read[$take];
        if (count($rows) - $done > self::AHEAD) {
            return;
        }
        $page = $this->page($take);
        $this->read[$take] = [
            [...array_slice($rows, $done), ...array_map(intval(...), array_column($page, 0))],
            [...array_slice($hashes, $done), ...array_column($page, 1)],
            0,
        ];
    }

    /** @return list<array{int|string, string}> row and hash of the next ones */
    private function page(int $take): array
    {
        $found = DB::connection()->getPdo()->query(
            "SELECT row_no, hash FROM staged_rows FORCE INDEX (PRIMARY) WHERE take_id = $take AND row_no > {$this->last[$take]}
            ORDER BY row_no LIMIT ".self::PAGE,
        );
        $page = $found === false ? [] : $found->fetchAll(\PDO::FETCH_NUM);
        $this->last[$take] = $page === [] ? $this->last[$take] : (int) end($page)[0];

        return $page;
    }
}
