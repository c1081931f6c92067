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
 * the same where it says the same at the same place; else by its key, where one row of either take has it; else where it says the same
 * anywhere, the first the first. All others are new and get numbers no row of the extract ever had.
 */
final readonly class RowNumbers
{
    private const AT_ONCE = 50_000;

    private function __construct(private Take $take, private Take $before, private Columns $columns)
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
        $this->others('rows_new', $this->take->id, $this->before->id, self::key($this->columns, $key));
        if (! DB::table('rows_new')->exists()) {
            return null;
        }
        $this->others('rows_old', $this->before->id, $this->take->id, self::key($this->before->tidyColumns(), $key));
        $this->byKey();
        $this->byContents();
        $last = $this->asNew();
        $this->write();

        return $last;
    }

    /** Rows of one take that do not say the same at the same place in the other. */
    private function others(string $into, int $of, int $other, string $key): void
    {
        DB::insert(
            "INSERT INTO $into (row_no, k, h) SELECT a.row_no, $key, a.hash FROM staged_rows a FORCE INDEX (PRIMARY)
            LEFT JOIN staged_rows b FORCE INDEX (PRIMARY) ON b.take_id = ? AND b.row_no = a.row_no AND b.hash = a.hash
            WHERE a.take_id = ? AND b.row_no IS NULL",
            [$other, $of],
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

    /** Rows that change their number are put aside, and come back in the order of their new ones. */
    private function write(): void
    {
        $take = $this->take->id;
        DB::statement('CREATE OR REPLACE TEMPORARY TABLE rows_moved (number INT UNSIGNED NOT NULL PRIMARY KEY, line INT UNSIGNED NOT NULL,
            hash BINARY(8) NOT NULL, cells MEDIUMTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin NOT NULL) ENGINE=InnoDB');
        $moved = 'rows_new n STRAIGHT_JOIN staged_rows s FORCE INDEX (PRIMARY) ON s.take_id = ? AND s.row_no = n.row_no
            WHERE n.row_no > ? AND n.row_no <= ? AND n.number <> n.row_no';
        $last = (int) DB::table('rows_new')->max('row_no');
        for ($after = 0; $after < $last; $after += self::AT_ONCE) {
            $of = [$take, $after, $after + self::AT_ONCE];
            DB::insert("INSERT INTO rows_moved SELECT n.number, s.line, s.hash, s.cells FROM $moved", $of);
            DB::delete("DELETE s FROM $moved", $of);
        }
        $last = (int) DB::table('rows_moved')->max('number');
        for ($after = 0; $after < $last; $after += self::AT_ONCE) {
            DB::insert('INSERT INTO staged_rows (take_id, row_no, line, hash, cells) SELECT ?, number, line, hash, cells FROM rows_moved
                WHERE number > ? AND number <= ? ORDER BY number', [$take, $after, $after + self::AT_ONCE]);
        }
        DB::statement('DROP TEMPORARY TABLE rows_moved');
        // Hashes of keys were made in the order of the file.
        (new KeyFiles($take))->forget();
    }

    /**
     * @param  list<int>  $rows  as they were read
     * @return list<int> as they are numbered now
     */
    private function now(array $rows): array
    {
        $numbers = $rows === [] ? [] : DB::table('rows_new')->whereIntegerInRaw('row_no', $rows)->pluck('number', 'row_no')->all();
        $now = array_map(fn (int $row) => (int) ($numbers[$row] ?? $row), $rows);
        sort($now);

        return $now;
    }
}
