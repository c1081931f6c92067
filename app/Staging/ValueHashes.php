<?php

namespace App\Staging;

use App\Support\BulkRows;
use Baggage\Core\Profiling\KeyHash;
use Illuminate\Support\Facades\DB;

/**
 * Hashes of column values of a take, written where the database can count and join them whatever their number: a table of this
 * session alone, which is filled without its index, then indexed once, and gone with the session however that ends.
 */
final class ValueHashes
{
    /** @var array<int, int> side → hashes written */
    private array $written = [];

    private function __construct(public readonly string $table, private readonly bool $says)
    {
    }

    /**
     * @param  string  $table  its name; one of the same name is replaced
     * @param  bool  $says  whether what rows say is held beside their keys
     */
    public static function begin(string $table = 'value_hashes', bool $says = true): self
    {
        DB::statement(
            "CREATE OR REPLACE TEMPORARY TABLE $table (side SMALLINT UNSIGNED NOT NULL, key_hash BINARY(8) NOT NULL, "
                .'row_no INT UNSIGNED NOT NULL, '.($says ? 'row_hash BINARY(8) NOT NULL, ' : '')
                .'KEY by_hash (side, key_hash, row_no'.($says ? ', row_hash' : '').')) ENGINE=MyISAM',
        );
        DB::statement("ALTER TABLE $table DISABLE KEYS");

        return new self($table, $says);
    }

    /** Hashes of a side that write() wrote. */
    public function written(int $side): int
    {
        return $this->written[$side] ?? 0;
    }

    /** The same under another name, so that others may be begun beside it. */
    public function under(string $name): self
    {
        DB::statement("DROP TEMPORARY TABLE IF EXISTS $name");
        DB::statement("ALTER TABLE $this->table RENAME TO $name");

        return new self($name, $this->says);
    }

    /** Makes the index, once all is written. */
    public function index(): void
    {
        DB::statement("ALTER TABLE $this->table ENABLE KEYS");
    }

    /**
     * @param  array<int, list<int>>  $sides  side → positions of the columns whose values together are hashed
     * @param  (\Closure(int, list<string|null>): void)|null  $also  shown each row on the way
     */
    public function write(int $take, array $sides, ?\Closure $also = null): void
    {
        foreach (StagedRows::pages($take) as $rows) {
            $lines = '';
            $n = 0;
            foreach ($rows as $row => $json) {
                $cells = json_decode($json, true);
                foreach ($sides as $side => $positions) {
                    $hash = KeyHash::of($cells, $positions);
                    if ($hash !== null) {
                        $lines .= $this->says ? "$side\t$hash\t$row\t0\n" : "$side\t$hash\t$row\n";
                        $this->written[$side] = ($this->written[$side] ?? 0) + 1;
                        $n++;
                    }
                }
                if ($also !== null) {
                    $also($row, $cells);
                }
            }
            $this->load($lines, $n);
        }
    }

    /** The same of one column, hashed while it was frozen. */
    public function take(int $side, KeyFiles $files, int $position): void
    {
        foreach ($files->read($position) as $hashes) {
            $lines = '';
            foreach ($hashes as $row => $hash) {
                $lines .= $this->says ? self::line($side, $hash, $row) : "$side\t$hash\t$row\n";
            }
            $this->written[$side] = ($this->written[$side] ?? 0) + count($hashes);
            $this->load($lines, count($hashes));
        }
    }

    /**
     * Each row by its key, with what it says.
     *
     * @param  list<int>|null  $key  positions of the key's columns; null where what a row says is all there is to tell it by
     * @param  list<int>|null  $says  positions of the columns that count; null for all there is
     */
    public function rows(int $take, int $side, ?array $key, ?array $says): void
    {
        foreach (StagedRows::pages($take) as $rows) {
            $lines = '';
            foreach ($rows as $row => $json) {
                $cells = $key === null && $says === null ? [] : json_decode($json, true);
                $hash = hash(
                    'xxh3',
                    $says === null
                        ? $json
                        : (string) json_encode(
                            array_map(fn ($at) => $cells[$at] ?? null, $says),
                            JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES,
                        ),
                );
                $lines .= self::line(
                    $side,
                    $key === null ? $hash : KeyHash::of($cells, $key) ?? '0000000000000000',
                    $row,
                    $hash,
                );
            }
            $this->load($lines, count($rows));
        }
    }

    /**
     * @param  string  $key  sixteen hexadecimal digits
     * @param  string  $says  as many at most
     */
    public static function line(int $side, string $key, int $row, string $says = '0'): string
    {
        return "$side\t$key\t$row\t$says\n";
    }

    /** @param  string  $lines  as line() makes them */
    public function load(string $lines, int $count): void
    {
        BulkRows::load(
            DB::connection(),
            $this->table,
            $this->says
                ? '(side, @k, row_no, @r) SET key_hash = UNHEX(@k), row_hash = UNHEX(LPAD(@r, 16, 0))'
                : '(side, @k, row_no) SET key_hash = UNHEX(@k)',
            $lines,
            $count,
        );
    }

    public function clear(): void
    {
        DB::statement("DROP TEMPORARY TABLE IF EXISTS $this->table");
    }
}
