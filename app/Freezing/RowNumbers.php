<?php

namespace App\Freezing;

use App\Decisions\RowKeys;
use App\Models\Extract;
use App\Models\Take;
use App\Models\TakeState;
use App\Staging\KeyFiles;
use Baggage\Core\Reading\Columns;
use Illuminate\Support\Facades\DB;

/**
 * Rows of a take keep the numbers they had in the take before, so what is known of a row is found by its number in every take. A row is
 * the same where it says the same in the same order, though rows came or went above it; else by its key, where one row of either take has
 * it; else where it says the same anywhere, the first the first. All others are new and get numbers no row of the extract ever had.
 */
final class RowNumbers
{
    private const AT_ONCE = 50_000;

    /** @var list<array{int, int, int}> first and last row of those that are so many numbers above what they are to have */
    private array $runs = [];

    private function __construct(private readonly Take $take, private readonly Take $before, private readonly Columns $columns)
    {
    }

    /**
     * @param  Columns  $columns  of the take
     * @param  int  $rows  of it, which are numbered as they were read
     * @return array{int, \Closure(list<int>): list<int>} number of the last row, and what numbers rows have now by those they had
     */
    public static function keep(Take $take, Extract $extract, Columns $columns, int $rows): array
    {
        $before = Take::query()
            ->where('extract_id', $extract->id)
            ->where('state', TakeState::Frozen)
            ->where('number', '<', $take->number)
            ->orderByDesc('number')
            ->first(['id', 'columns', 'rows', 'last_row']);
        $same = fn (array $numbers): array => $numbers;
        if ($before === null || $before->id === $take->id) {
            return [$rows, $same];
        }
        $numbers = new self($take, $before, $columns);
        $last = $numbers->give(RowKeys::columns($extract) ?? []);

        return $last === null ? [max($rows, self::last($before)), $same] : [$last, $numbers->now(...)];
    }

    private static function last(Take $take): int
    {
        return (int) DB::table('staged_rows')->where('take_id', $take->id)->max('row_no');
    }

    /**
     * @param  list<string>  $key  headers of the columns that identify rows
     * @return int|null number of the last row; null where all keep the one they were read with
     */
    private function give(array $key): ?int
    {
        DB::statement('DROP TEMPORARY TABLE IF EXISTS rows_new');
        DB::statement('DROP TEMPORARY TABLE IF EXISTS rows_old');
        $columns = 'row_no INT UNSIGNED NOT NULL PRIMARY KEY, k BINARY(16), h BINARY(8) NOT NULL';
        DB::statement("CREATE TEMPORARY TABLE rows_old ($columns) ENGINE=InnoDB");
        DB::statement("CREATE TEMPORARY TABLE rows_new ($columns, number INT UNSIGNED) ENGINE=InnoDB");
        $keys = [
            $this->take->id => ['rows_new', self::key($this->columns, $key)],
            $this->before->id => ['rows_old', self::key($this->before->tidyColumns(), $key)],
        ];
        $tell = fn (int $take, array $rows) => self::put($take, $rows, ...$keys[$take]);
        $this->runs = Alignment::of($this->take->id, $this->before->id, $tell);
        if ($this->runs === [] && ! DB::table('rows_new')->exists()) {
            return null;
        }
        $this->byKey();
        $this->byContents();
        $last = $this->asNew();
        $this->write();

        return $last;
    }

    /** @param  non-empty-list<int>  $rows  of a take that are not found in the other */
    private static function put(int $take, array $rows, string $into, string $key): void
    {
        DB::insert(
            "INSERT INTO $into (row_no, k, h) SELECT a.row_no, $key, a.hash FROM staged_rows a FORCE INDEX (PRIMARY)
            WHERE a.take_id = ? AND a.row_no IN (".implode(',', $rows).')',
            [$take],
        );
    }

    /**
     * @param  list<string>  $headers
     * @return string what hashes the key of a row; null where the key is blank, or a column of it is not there
     */
    private static function key(Columns $columns, array $headers): string
    {
        $at = $columns->byHeader();
        $positions = array_map(fn (string $h) => $at[$h] ?? null, $headers);
        if ($positions === [] || in_array(null, $positions, true)) {
            return 'NULL';
        }
        $cells = array_map(fn (int $p) => "COALESCE(JSON_VALUE(a.cells, '$[$p]'), '')", array_filter($positions, is_int(...)));
        $all = implode(', ', $cells);

        return "IF(CONCAT($all) = '', NULL, UNHEX(MD5(CONCAT_WS('\\x1F', $all))))";
    }

    private function byKey(): void
    {
        $this->meet('SELECT MAX(IF(is_new, row_no, 0)) AS row_no, MAX(IF(is_new, 0, row_no)) AS number FROM (
            SELECT k, row_no, 1 AS is_new FROM rows_new WHERE k IS NOT NULL
            UNION ALL SELECT k, row_no, 0 FROM rows_old WHERE k IS NOT NULL) both_takes
            GROUP BY k HAVING SUM(is_new) = 1 AND COUNT(*) = 2');
    }

    private function byContents(): void
    {
        $nth = fn (string $of) => "SELECT h, row_no, ROW_NUMBER() OVER (PARTITION BY h ORDER BY row_no) AS nth FROM $of";
        $this->meet("SELECT n.row_no, o.row_no AS number FROM ({$nth('rows_new')} WHERE number IS NULL) n
            JOIN ({$nth('rows_old')}) o ON o.h = n.h AND o.nth = n.nth");
    }

    /** @param  string  $pairs  rows of the take, and the numbers they get */
    private function meet(string $pairs): void
    {
        DB::statement('DROP TEMPORARY TABLE IF EXISTS rows_met');
        DB::statement("CREATE TEMPORARY TABLE rows_met (row_no INT UNSIGNED NOT NULL PRIMARY KEY, number INT UNSIGNED NOT NULL)
            ENGINE=InnoDB $pairs");
        DB::update('UPDATE rows_met m STRAIGHT_JOIN rows_new n ON n.row_no = m.row_no SET n.number = m.number');
        DB::delete('DELETE o FROM rows_met m STRAIGHT_JOIN rows_old o ON o.row_no = m.number');
    }

    /** @return int number of the last row */
    private function asNew(): int
    {
        $used = (int) Take::query()->where('extract_id', $this->take->extract_id)->whereKeyNot($this->take->id)
            ->where('state', TakeState::Frozen)->selectRaw('MAX(GREATEST(COALESCE(last_row, 0), COALESCE(`rows`, 0))) AS n')->value('n');
        DB::statement('SET @n = ?', [$used]);
        DB::update('UPDATE rows_new SET number = (@n := @n + 1) WHERE number IS NULL ORDER BY row_no');

        return max($used, (int) DB::table('rows_new')->max('number'));
    }

    /**
     * Runs of rows move together, those to lower numbers from the first on and those to higher ones from the last: as they keep their
     * order none is in another's way. All others are put aside before, and come back in the order of their new numbers.
     */
    private function write(): void
    {
        $this->runs = $this->ranges();
        $this->putAside();
        $down = array_filter($this->runs, fn (array $r) => $r[2] > 0);
        $up = array_reverse(array_filter($this->runs, fn (array $r) => $r[2] < 0));
        foreach ([...$up, ...$down] as [$first, $last, $by]) {
            $this->shift($first, $last, $by);
        }
        $this->bringBack();
        // Hashes of keys were made in the order of the file.
        (new KeyFiles($this->take->id))->forget();
    }

    /**
     * The runs, with what lies between two of them and moves alike: this is not put aside then.
     *
     * @return list<array{int, int, int}>
     */
    private function ranges(): array
    {
        DB::statement('CREATE OR REPLACE TEMPORARY TABLE rows_between (row_no INT UNSIGNED NOT NULL PRIMARY KEY) ENGINE=InnoDB');
        $ranges = [];
        foreach ($this->runs as $run) {
            $last = array_key_last($ranges);
            $gap = $last === null ? 0 : $run[0] - $ranges[$last][1] - 1;
            if ($gap > 0 && $ranges[$last][2] === $run[2] && $this->movesAlike($ranges[$last][1], $run[0], $run[2]) === $gap) {
                $between = [$ranges[$last][1], $run[0]];
                DB::insert('INSERT INTO rows_between SELECT row_no FROM rows_new WHERE row_no > ? AND row_no < ?', $between);
                $ranges[$last][1] = $run[1];
            } else {
                $ranges[] = $run;
            }
        }

        return $ranges;
    }

    /** @return int rows between two others that move by so many */
    private function movesAlike(int $after, int $before, int $by): int
    {
        return (int) DB::scalar(
            'SELECT COUNT(*) FROM rows_new WHERE row_no > ? AND row_no < ? AND CAST(row_no AS SIGNED) - CAST(number AS SIGNED) = ?',
            [$after, $before, $by],
        );
    }

    private function putAside(): void
    {
        DB::statement('CREATE OR REPLACE TEMPORARY TABLE rows_moved (number INT UNSIGNED NOT NULL PRIMARY KEY, line INT UNSIGNED NOT NULL,
            hash BINARY(8) NOT NULL, cells MEDIUMTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL) ENGINE=InnoDB');
        DB::delete('DELETE n FROM rows_between b STRAIGHT_JOIN rows_new n ON n.row_no = b.row_no');
        $moved = 'rows_new n STRAIGHT_JOIN staged_rows s FORCE INDEX (PRIMARY) ON s.take_id = ? AND s.row_no = n.row_no
            WHERE n.row_no > ? AND n.row_no <= ? AND n.number <> n.row_no';
        $last = (int) DB::table('rows_new')->max('row_no');
        for ($after = 0; $after < $last; $after += self::AT_ONCE) {
            $of = [$this->take->id, $after, $after + self::AT_ONCE];
            DB::insert("INSERT INTO rows_moved SELECT n.number, s.line, s.hash, s.cells FROM $moved", $of);
            DB::delete("DELETE s FROM $moved", $of);
        }
    }

    /** Rows get numbers that are so many below those they have. */
    private function shift(int $first, int $last, int $by): void
    {
        $order = $by > 0 ? 'ASC' : 'DESC';
        for ($done = 0, $all = $last - $first + 1; $done < $all; $done += self::AT_ONCE) {
            $many = min(self::AT_ONCE, $all - $done);
            $from = $by > 0 ? $first + $done : $last - $done - $many + 1;
            DB::update(
                "UPDATE staged_rows SET row_no = row_no - ($by) WHERE take_id = ? AND row_no BETWEEN ? AND ? ORDER BY row_no $order",
                [$this->take->id, $from, $from + $many - 1],
            );
        }
    }

    private function bringBack(): void
    {
        $last = (int) DB::table('rows_moved')->max('number');
        for ($after = 0; $after < $last; $after += self::AT_ONCE) {
            DB::insert('INSERT INTO staged_rows (take_id, row_no, line, hash, cells) SELECT ?, number, line, hash, cells FROM rows_moved
                WHERE number > ? AND number <= ? ORDER BY number', [$this->take->id, $after, $after + self::AT_ONCE]);
        }
        DB::statement('DROP TEMPORARY TABLE rows_moved');
    }

    /**
     * @param  list<int>  $rows  as they were read
     * @return list<int> as they are numbered now
     */
    private function now(array $rows): array
    {
        $numbers = $rows === [] ? [] : DB::table('rows_new')->whereIntegerInRaw('row_no', $rows)->pluck('number', 'row_no')->all();
        $now = array_map(fn (int $row) => (int) ($numbers[$row] ?? $row - $this->above($row)), $rows);
        sort($now);

        return $now;
    }

    /** So many numbers a row of a run was above the one it has. */
    private function above(int $row): int
    {
        [$low, $high] = [0, count($this->runs) - 1];
        while ($low <= $high) {
            $at = intdiv($low + $high, 2);
            [$first, $last, $by] = $this->runs[$at];
            if ($row >= $first && $row <= $last) {
                return $by;
            }
            $row < $first ? $high = $at - 1 : $low = $at + 1;
        }

        return 0;
    }
}
