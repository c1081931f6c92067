<?php

namespace App\Profiling;

use App\Support\BulkRows;
use Illuminate\Support\Facades\DB;
use PDO;

/** Hashes of column values of a take, written where the database can count and join them whatever their number. */
final class StagedPrints
{
    private const ROWS = 20_000;

    public function __construct(private readonly int $work)
    {
    }

    /**
     * @param  array<int, list<int>>  $sides  side → positions of the columns whose values together are hashed
     * @param  bool  $blanks  whether rows with a blank among them count too
     */
    public function write(int $take, array $sides, bool $blanks = false): void
    {
        for ($after = 0; ;) {
            $found = DB::connection()->getPdo()->query("SELECT row_no, cells FROM staged_rows WHERE take_id = $take AND row_no > $after ORDER BY row_no LIMIT ".self::ROWS);
            $rows = $found === false ? [] : $found->fetchAll(PDO::FETCH_NUM);
            if ($rows === []) {
                return;
            }
            $lines = '';
            $n = 0;
            foreach ($rows as [$row, $json]) {
                $cells = json_decode($json, true);
                foreach ($sides as $side => $positions) {
                    $print = self::of($cells, $positions);
                    if ($print !== null || $blanks) {
                        $lines .= self::line($this->work, $side, $print ?? '0000000000000000', (int) $row);
                        $n++;
                    }
                }
            }
            self::load($lines, $n);
            $after = (int) $rows[count($rows) - 1][0];
        }
    }

    /**
     * @param  list<string|null>  $cells
     * @param  list<int>  $positions
     * @return string|null hexadecimal; null when one of them is blank
     */
    public static function of(array $cells, array $positions): ?string
    {
        $parts = [];
        foreach ($positions as $at) {
            $part = trim((string) ($cells[$at] ?? ''));
            if ($part === '') {
                return null;
            }
            $parts[] = $part;
        }

        return hash('xxh3', implode("\x1F", $parts));
    }

    /** @param  string  $print  sixteen hexadecimal digits */
    public static function line(int $work, int $side, string $print, int $row): string
    {
        return "$work\t$side\t$print\t$row\t0\n";
    }

    /** @param  string  $lines  as line() makes them */
    public static function load(string $lines, int $count): void
    {
        BulkRows::load(DB::connection(), 'row_prints', '(work, side, @p, row_no, @h) SET print = UNHEX(@p), hash = UNHEX(LPAD(@h, 16, 0))', $lines, $count);
    }

    public function clear(): void
    {
        DB::table('row_prints')->where('work', $this->work)->delete();
    }
}
