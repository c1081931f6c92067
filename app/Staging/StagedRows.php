<?php

namespace App\Staging;

use App\Models\Load;
use App\Support\BulkRows;
use Baggage\Core\Loading\FeedRows;
use Baggage\Core\Reading\RawRow;
use Illuminate\Database\Connection;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;
use PDO;

/** Rows of takes: written once, read back in order, with the corrections people put over their cells. */
final class StagedRows implements FeedRows
{
    /** Rows looked through at a time for a value, and rows with it shown at a time. */
    private const STRETCH = 200_000;

    private const PAGE = 60;

    /** Rows walked through at a time: as many as fit, however wide they are. */
    private const FIRST_PAGE = 100;

    private const MOST_OF_A_PAGE = 20_000;

    private const BYTES_OF_A_PAGE = 4_000_000;

    private const DELETED_AT_ONCE = 20_000;

    /** How cells are written. */
    public const JSON = JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES;

    /** A table of the rows in the order of their file. */
    private ?string $places = null;

    /** @param  int|null  $decision  the number of the last decision that is laid over them; null for all that count now */
    public function __construct(private readonly int $take, private readonly ?int $decision = null)
    {
    }

    /** The rows a load reads. */
    public static function ofLoad(Load $load): self
    {
        return new self((int) $load->extract->take_id);
    }

    /** @return array<int, list<string|null>> row number → cells, at most $most rows with a number above $after, in row order */
    public function after(int $after, int $most): array
    {
        return $this->read("row_no > $after ORDER BY row_no LIMIT $most");
    }

    /**
     * Rows as read, and with what is laid over them; a row nothing is laid over is the very same list.
     *
     * @return array{array<int, list<string|null>>, array<int, list<string|null>>}
     */
    public function both(int $after, int $most): array
    {
        return $this->twice("row_no > $after ORDER BY row_no LIMIT $most");
    }

    /**
     * The same of some rows.
     *
     * @param  non-empty-list<int>  $rows
     * @return array{array<int, list<string|null>>, array<int, list<string|null>>}
     */
    public function bothOf(array $rows): array
    {
        return $this->twice(self::among($rows).' ORDER BY row_no');
    }

    /** @return array<int, list<string|null>> row number → cells, $most rows in the order of the file without its first $skipped */
    public function inFile(int $skipped, int $most): array
    {
        $rows = $this->places()->where('n', '>', $skipped)->where('n', '<=', $skipped + $most)->orderBy('n')->pluck('row_no')
            ->map(fn ($n) => (int) $n)->all();

        return array_replace(array_fill_keys($rows, []), $this->numbered($rows));
    }

    /**
     * @param  list<int>  $rows
     * @return array<int, int> row number → its place in the file, from 1
     */
    public function placesOf(array $rows): array
    {
        return $this->places()->whereIntegerInRaw('row_no', $rows)->pluck('n', 'row_no')->map(fn ($n) => (int) $n)->all();
    }

    /** The row at a place of the file, from 1. */
    public function at(int $place): ?int
    {
        $row = $this->places()->where('n', $place)->value('row_no');

        return $row === null ? null : (int) $row;
    }

    /** Rows by the order of their file, worked out once. */
    private function places(): Builder
    {
        if ($this->places === null) {
            $this->places = "places_of_$this->take";
            DB::statement("CREATE OR REPLACE TEMPORARY TABLE $this->places (n INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY,
                row_no INT UNSIGNED NOT NULL, KEY (row_no)) ENGINE=InnoDB");
            $all = 'SELECT row_no FROM staged_rows WHERE take_id = ? ORDER BY line, row_no';
            DB::insert("INSERT INTO $this->places (row_no) $all", [$this->take]);
        }

        return DB::table($this->places);
    }

    public function between(int $after, int $to): array
    {
        return $this->read("row_no > $after AND row_no <= $to ORDER BY row_no");
    }

    public function numbered(array $rows): array
    {
        if ($rows === []) {
            return [];
        }

        return $this->read(self::among($rows).' ORDER BY row_no');
    }

    /** @param  non-empty-array<int>  $rows */
    private static function among(array $rows): string
    {
        [$first, $last] = [min($rows), max($rows)];
        // Rows that follow each other are read as they lie.
        $isStretch = $last - $first + 1 === count($rows) && count(array_unique($rows)) === count($rows);

        return $isStretch ? "row_no BETWEEN $first AND $last" : 'row_no IN ('.implode(',', array_map(intval(...), $rows)).')';
    }

    /**
     * All rows of a take without the corrections laid over them, some thousands at a time.
     *
     * @return \Generator<non-empty-array<int, string>> row number → cells as JSON
     */
    public static function pages(int $take): \Generator
    {
        $most = self::FIRST_PAGE;
        for ($after = 0; ; $after = (int) array_key_last($rows)) {
            $found = DB::connection()
                ->getPdo()
                ->query("SELECT row_no, cells FROM staged_rows WHERE take_id = $take AND row_no > $after ORDER BY row_no LIMIT $most");
            $rows = $found === false ? [] : $found->fetchAll(PDO::FETCH_KEY_PAIR);
            if ($rows === []) {
                return;
            }
            yield $rows;
            $most = self::fitting(count($rows), array_sum(array_map(strlen(...), $rows)));
        }
    }

    /**
     * Rows without the corrections laid over them.
     *
     * @param  array<int>  $numbers
     * @return list<array{int, RawRow}> in the order asked for
     */
    public static function asRead(int $take, array $numbers): array
    {
        $found = DB::table('staged_rows')
            ->where('take_id', $take)
            ->whereIntegerInRaw('row_no', $numbers)
            ->get(['row_no', 'line', 'cells'])
            ->keyBy('row_no');

        return array_values(
            array_map(
                fn ($n) => self::asRow($found[$n]),
                array_filter($numbers, fn ($n) => isset($found[$n])),
            ),
        );
    }

    /**
     * The same, by row number and without their lines.
     *
     * @param  array<int>  $numbers
     * @return array<int, list<string|null>>
     */
    public static function cells(int $take, array $numbers): array
    {
        return DB::table('staged_rows')
            ->where('take_id', $take)
            ->whereIntegerInRaw('row_no', $numbers)
            ->pluck('cells', 'row_no')
            ->map(fn ($c) => json_decode($c, true))
            ->all();
    }

    /**
     * All rows of a take in order, without corrections.
     *
     * @return \Generator<int, array{int, string, list<string|null>}> row number → line, hash in hexadecimal, cells
     */
    public static function walk(int $take): \Generator
    {
        $pdo = DB::connection()->getPdo();
        $most = self::FIRST_PAGE;
        for ($after = 0; ; $after = $last) {
            $last = null;
            $bytes = $n = 0;
            $found = $pdo->query(
                "SELECT row_no, line, LOWER(HEX(hash)), cells FROM staged_rows WHERE take_id = $take AND row_no > $after "
                    ."ORDER BY row_no LIMIT $most",
            );
            foreach ($found === false ? [] : $found->fetchAll(PDO::FETCH_NUM) as [$row, $line, $hash, $cells]) {
                yield $last = (int) $row => [(int) $line, (string) $hash, json_decode($cells, true)];
                $bytes += strlen($cells);
                $n++;
            }
            if ($last === null) {
                return;
            }
            $most = self::fitting($n, $bytes);
        }
    }

    /** @return int rows of a page, when some had so many bytes */
    private static function fitting(int $rows, int $bytes): int
    {
        return max(50, min(self::MOST_OF_A_PAGE, intdiv(self::BYTES_OF_A_PAGE * $rows, max(1, $bytes))));
    }

    /**
     * @param  array<int>  $numbers
     * @return array<int, array{int, string, list<string|null>}> row number → line, hash in hexadecimal, cells as read
     */
    public static function known(int $take, array $numbers): array
    {
        $found = [];
        foreach (
            DB::table('staged_rows')
                ->where('take_id', $take)
                ->whereIntegerInRaw('row_no', $numbers)
                ->selectRaw('row_no, line, LOWER(HEX(hash)) AS hash, cells')
                ->get() as $row
        ) {
            $found[(int) $row->row_no] = [(int) $row->line, (string) $row->hash, json_decode($row->cells, true)];
        }

        return $found;
    }

    /** @return list<list<string|null>> cells of the first rows; of wide ones fewer */
    public static function sample(int $take, int $most): array
    {
        $sample = [];
        $bytes = 0;
        foreach (self::pages($take) as $rows) {
            foreach ($rows as $json) {
                $bytes += strlen($json);
                if (count($sample) === $most || $bytes > self::BYTES_OF_A_PAGE) {
                    return $sample;
                }
                $sample[] = json_decode($json, true);
            }
        }

        return $sample;
    }

    /** @return list<array{int, RawRow}> rows with a number above $after, without corrections */
    public static function page(int $take, int $after, int $most): array
    {
        $found = DB::table('staged_rows')
            ->where('take_id', $take)
            ->where('row_no', '>', $after)
            ->orderBy('row_no')
            ->limit($most)
            ->get(['row_no', 'line', 'cells']);

        return $found->map(self::asRow(...))->all();
    }

    /**
     * @param  array<int>  $lines  of the file
     * @return list<int> numbers of the rows that begin there
     */
    public static function ofLines(int $take, array $lines): array
    {
        return DB::table('staged_rows')
            ->where('take_id', $take)
            ->whereIntegerInRaw('line', $lines)
            ->orderBy('row_no')
            ->pluck('row_no')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    /**
     * Rows with a certain value in a column: a bounded stretch of the take is looked through at a time.
     *
     * @return array{rows: list<array{int, RawRow}>, reached: int} rows, and the last row number looked at
     */
    public static function withValue(int $take, int $position, string $value, int $after): array
    {
        $until = $after + self::STRETCH;
        $rows = DB::select(
            'SELECT row_no, line, cells FROM staged_rows WHERE take_id = ? AND row_no > ? AND row_no <= ? '
                ."AND JSON_VALUE(cells, '$[$position]') = ? ORDER BY row_no LIMIT ".self::PAGE,
            [$take, $after, $until, $value],
        );
        $found = array_map(self::asRow(...), $rows);

        return ['rows' => $found, 'reached' => count($found) === self::PAGE ? $found[self::PAGE - 1][0] : $until];
    }

    /** A query for the numbers of a take's rows. */
    public static function numbers(int $take): Builder
    {
        return DB::table('staged_rows')->where('take_id', $take)->select('row_no');
    }

    /** Reads a file of rows (take_id, row_no, line, hash in hexadecimal, cells as JSON) into the table. */
    public static function load(Connection $connection, string $path, int $rows): void
    {
        BulkRows::loadFile(
            $connection,
            'staged_rows',
            '(take_id, row_no, line, @h, cells) SET hash = UNHEX(@h)',
            $path,
            $rows,
        );
    }

    public static function forget(int $take): void
    {
        // In ranges: one statement over millions of rows would hold them all locked, and the log of them all.
        do {
            $n = DB::table('staged_rows')->where('take_id', $take)->orderBy('row_no')->limit(self::DELETED_AT_ONCE)->delete();
        } while ($n === self::DELETED_AT_ONCE);
    }

    /**
     * @param  list<int>  $takes
     * @return array<int, list<string|null>> take → the cells of its first row
     */
    public static function firstOf(array $takes): array
    {
        $found = DB::table('staged_rows')
            ->whereIntegerInRaw('take_id', $takes)
            ->where('row_no', 1)
            ->pluck('cells', 'take_id')
            ->map(fn ($cells) => json_decode($cells, true, 8, JSON_THROW_ON_ERROR))
            ->all();
        foreach (Corrections::ofFirstRows($takes) as $take) {
            $found[$take] = (new self($take))->corrected([1 => $found[$take]])[1];
        }

        return $found;
    }

    /** @return array{int, RawRow} */
    private static function asRow(\stdClass $row): array
    {
        return [(int) $row->row_no, new RawRow((int) $row->line, json_decode($row->cells, true))];
    }

    /** @return array<int, list<string|null>> */
    private function read(string $where): array
    {
        return $this->twice($where)[1];
    }

    /** @return array{array<int, list<string|null>>, array<int, list<string|null>>} */
    private function twice(string $where): array
    {
        $pdo = DB::connection()->getPdo();
        $statement = $pdo->query("SELECT row_no, cells FROM staged_rows WHERE take_id = $this->take AND $where");
        $rows = [];
        if ($statement !== false) {
            while ($row = $statement->fetch(PDO::FETCH_NUM)) {
                $rows[(int) $row[0]] = json_decode($row[1], true, 8, JSON_THROW_ON_ERROR);
            }
        }

        return [$rows, $rows === [] ? [] : $this->corrected($rows)];
    }

    /**
     * @param  non-empty-array<int, list<string|null>>  $rows
     * @return array<int, list<string|null>>
     */
    private function corrected(array $rows): array
    {
        foreach (Corrections::over($this->take, min(array_keys($rows)), max(array_keys($rows)), $this->decision) as [$row, $laid]) {
            if (isset($rows[$row])) {
                $rows[$row] = $laid->over($rows[$row]);
            }
        }

        return $rows;
    }
}
