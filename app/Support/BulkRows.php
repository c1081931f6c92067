<?php

namespace App\Support;

use Illuminate\Database\Connection;
use Illuminate\Support\Facades\DB;
use PDO;

/** Writes many rows at once: a tab-separated temporary file and LOAD DATA LOCAL. */
final class BulkRows
{
    private const ESCAPES = ['\\' => '\\\\', "\t" => '\\t', "\n" => '\\n', "\r" => '\\r', "\0" => '\\0'];

    /** @param  list<string|int|null>  $values */
    public static function line(array $values): string
    {
        $out = '';
        foreach ($values as $i => $value) {
            $out .= $i === 0 ? '' : "\t";
            $out .= match (true) {
                $value === null => '\\N',
                is_int($value) => $value,
                default => self::text($value),
            };
        }

        return $out."\n";
    }

    /** A text as it stands in a line. */
    public static function text(string $value): string
    {
        return strpbrk($value, "\\\t\n\r\0") === false ? $value : strtr($value, self::ESCAPES);
    }

    /**
     * @param  string  $columns  column list, with @variables and a SET clause where needed
     * @return int rows written
     *
     * @throws BrokenOff when a row was not taken; LOCAL would pass over it silently
     */
    public static function load(Connection $db, string $table, string $columns, string $lines, int $expected): int
    {
        if ($expected === 0) {
            return 0;
        }
        $file = self::file($lines);
        try {
            return self::loadFile($db, $table, $columns, $file, $expected);
        } finally {
            unlink($file);
        }
    }

    /** As load(), where some of the rows may be there already. */
    public static function loadNew(Connection $db, string $table, string $columns, string $lines): void
    {
        if ($lines === '') {
            return;
        }
        $file = self::file($lines);
        try {
            $db->getPdo()->exec(self::statement($db, 'IGNORE ', $table, $columns, $file));
        } finally {
            unlink($file);
        }
    }

    /**
     * @param  string  $of  begins its name, so that what a killed process leaves can be found
     * @return string path of a new file with the lines
     */
    public static function file(string $lines, string $of = 'rows'): string
    {
        $folder = self::folder();
        $file = tempnam($folder, $of);
        if (
            $file === false
            || ! str_starts_with($file, $folder)
            || file_put_contents($file, $lines) !== strlen($lines)
        ) {
            throw BrokenOff::noRoom($folder);
        }

        return $file;
    }

    /** Deletes files whose names begin so, which a killed process left. */
    public static function sweep(string $of): void
    {
        foreach (glob(self::folder()."/$of*") ?: [] as $file) {
            @unlink($file);
        }
    }

    /** As load(), of a file that holds the lines already. */
    public static function loadFile(Connection $db, string $table, string $columns, string $file, int $expected): int
    {
        $pdo = $db->getPdo();
        $written = (int) $pdo->exec(self::statement($db, '', $table, $columns, $file));
        $warned = $pdo->query('SELECT @@warning_count');
        if ($written !== $expected || ($warned !== false && (int) $warned->fetchColumn() > 0)) {
            $warnings = $db->getPdo()->query('SHOW WARNINGS');
            $first = $warnings === false ? [] : ($warnings->fetch(PDO::FETCH_ASSOC) ?: []);
            throw BrokenOff::notTaken($table, $written, $expected, $first['Message'] ?? 'no reason given');
        }

        return $written;
    }

    private static function statement(Connection $db, string $how, string $table, string $columns, string $file): string
    {
        return 'LOAD DATA LOCAL INFILE '.$db->getPdo()->quote($file)." {$how}INTO TABLE $table CHARACTER SET utf8mb4 "
            ."FIELDS TERMINATED BY '\\t' ESCAPED BY '\\\\' LINES TERMINATED BY '\\n' $columns";
    }

    /** Deletes what processes that were killed left there long ago: such files hold rows of a client. */
    public static function sweepOld(int $seconds): void
    {
        foreach (glob(self::folder().'/*') ?: [] as $file) {
            if ((int) @filemtime($file) < time() - $seconds) {
                @unlink($file);
            }
        }
    }

    /**
     * A folder of this installation's own that nobody else can read. Memory rather than disk where there is room: its files live for
     * milliseconds.
     */
    public static function folder(): string
    {
        $db = DB::connection();
        $of = json_encode([$db->getConfig('host'), $db->getConfig('port'), $db->getDatabaseName(), getmyuid()]);
        $shared = is_dir('/dev/shm') && is_writable('/dev/shm') && disk_free_space('/dev/shm') > 1 << 28
            ? '/dev/shm'
            : sys_get_temp_dir();
        $folder = "$shared/baggage-".hash('xxh3', (string) $of);
        if (! is_dir($folder) && ! @mkdir($folder, 0700) && ! is_dir($folder)) {
            throw BrokenOff::noRoom($shared);
        }
        if (fileowner($folder) !== posix_geteuid()) {
            throw BrokenOff::noRoom($folder);
        }

        return $folder;
    }
}
