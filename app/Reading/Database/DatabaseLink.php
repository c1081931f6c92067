<?php

namespace App\Reading\Database;

use App\Models\Connection;
use Baggage\Core\Reading\Database\AddressError;
use Baggage\Core\Reading\Database\Driver;
use Baggage\Core\Reading\ReadingError;
use PDO;
use PDOException;

/** A read-only connection to a legacy database, and what went wrong in words one can act on. */
final class DatabaseLink
{
    private const OPTIONS = [PDO::ATTR_ORACLE_NULLS => PDO::NULL_NATURAL];

    private function __construct(public readonly PDO $pdo, public readonly string $driver)
    {
    }

    /** @throws ReadingError */
    public static function file(string $path): self
    {
        self::refuseCutOff($path);
        try {
            $pdo = new PDO(
                "sqlite:$path",
                null,
                null,
                self::OPTIONS + [
                    PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION,
                    PDO::ATTR_TIMEOUT => 5,
                    PDO::ATTR_STRINGIFY_FETCHES => true,
                    PDO::SQLITE_ATTR_OPEN_FLAGS => PDO::SQLITE_OPEN_READONLY,
                ],
            );
            $pdo->exec('PRAGMA query_only = 1');
            $pdo->exec('PRAGMA trusted_schema = 0');
            $pdo->query('SELECT COUNT(*) FROM sqlite_master');
        } catch (PDOException $e) {
            throw ReadingError::broken(
                str_contains($e->getMessage(), 'malformed') || str_contains($e->getMessage(), 'not a database')
                    ? 'The SQLite database is damaged or cut off. Ask for the file again, closed by its program.'
                    : 'The SQLite database cannot be opened: '.$e->getMessage(),
            );
        }

        return new self($pdo, 'sqlite');
    }

    /** The header states the size of a page and their number (SQLite, "Database File Format", 1.3); a file with fewer was cut off. */
    private static function refuseCutOff(string $path): void
    {
        $head = (string) file_get_contents($path, false, null, 0, 32);
        $size = strlen($head) === 32 ? unpack('n', substr($head, 16, 2))[1] ?? 0 : 0;
        $pages = strlen($head) === 32 ? unpack('N', substr($head, 28, 4))[1] ?? 0 : 0;
        $size = $size === 1 ? 65_536 : $size;
        if ($size === 0 || (int) filesize($path) < $size * $pages) {
            throw ReadingError::broken(
                'The SQLite database is damaged or cut off: it states '.number_format($size * $pages)
                    .' bytes and has '.number_format((int) filesize($path))
                    .'. Ask for the file again, closed by its program.',
            );
        }
    }

    /**
     * @param  int  $seconds  a statement may take, where the database has such a limit
     *
     * @throws ReadingError
     */
    public static function to(Connection $c, int $seconds): self
    {
        try {
            $login = Login::through($c);
            self::needDriver($login->address->driver);

            return new self(self::opened($login, $seconds), $login->address->driver->value);
        } catch (AddressError $e) {
            throw ReadingError::broken($e->getMessage());
        } catch (PDOException $e) {
            throw ReadingError::broken(self::refusedDatabase($login, $e) ?? ConnectionFailure::explain($login, $e));
        }
    }

    private static function opened(Login $login, int $seconds): PDO
    {
        $pdo = $login->open(
            self::OPTIONS
                + ($login->address->driver === Driver::Mysql
                    ? [
                        PDO::MYSQL_ATTR_USE_BUFFERED_QUERY => false,
                        PDO::MYSQL_ATTR_MULTI_STATEMENTS => false,
                        PDO::MYSQL_ATTR_LOCAL_INFILE => false,
                    ]
                    : []),
        );
        self::limit($pdo, $login->address->driver, $seconds);
        match ($login->address->driver) {
            Driver::Mysql => $pdo->exec('START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY'),
            Driver::Pgsql => $pdo->exec('BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY'),
            default => 0,
        };

        return $pdo;
    }

    /** MariaDB counts in seconds, MySQL in milliseconds and by another name; the driver for SQL Server has it by connection. */
    private static function limit(PDO $pdo, Driver $driver, int $seconds): void
    {
        try {
            match ($driver) {
                Driver::Mysql => $pdo->exec("SET SESSION max_statement_time = $seconds"),
                Driver::Pgsql => $pdo->exec("SET statement_timeout = '{$seconds}s'"),
                Driver::SqlServer => $pdo->setAttribute((int) constant('PDO::DBLIB_ATTR_QUERY_TIMEOUT'), $seconds),
                default => false,
            };
        } catch (PDOException $e) {
            // Unknown system variable.
            (int) ($e->errorInfo[1] ?? 0) === 1193
                ? $pdo->exec('SET SESSION max_execution_time = '.$seconds * 1000)
                : throw $e;
        }
    }

    /** The driver for SQL Server says the same of a wrong password and of a missing database: without the name of one it tells which. */
    private static function refusedDatabase(Login $login, PDOException $e): ?string
    {
        if ($login->address->driver !== Driver::SqlServer || ! str_contains($e->getMessage(), 'connection failed')) {
            return null;
        }
        try {
            $login->open(self::OPTIONS, $login->address->withoutDatabase());
        } catch (PDOException) {
            return null;
        }
        [$host, $database] = [$login->said($login->address->host), $login->said($login->address->database)];

        return "The server at $host port {$login->said($login->address->port)} has no database \"$database\", "
            ."or the user \"{$login->said($login->user)}\" may not open it.";
    }

    private static function needDriver(Driver $driver): void
    {
        if (! in_array($driver->value, PDO::getAvailableDrivers(), true)) {
            throw ReadingError::broken(
                "The driver for {$driver->label()} is not installed on this machine. Debian's package {$driver->package()} "
                    ."brings it: apt-get install {$driver->package()}, then start Baggage again.",
            );
        }
    }

    /** @return list<array{name: string, schema: string, view: bool}> */
    public function tables(): array
    {
        $sql = match ($this->driver) {
            'sqlite' => "SELECT name, '' AS s, type = 'view' AS v FROM sqlite_master "
                ."WHERE type IN ('table', 'view') AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY name",
            'mysql' => "SELECT table_name AS name, '' AS s, table_type = 'VIEW' AS v FROM information_schema.tables "
                .'WHERE table_schema = DATABASE() ORDER BY table_name',
            'pgsql' => "SELECT table_name AS name, table_schema AS s, CASE WHEN table_type = 'VIEW' THEN 1 ELSE 0 "
                ."END AS v FROM information_schema.tables WHERE table_schema NOT IN ('pg_catalog', 'information_schema') ORDER BY 2, 1",
            default => "SELECT TABLE_NAME AS name, TABLE_SCHEMA AS s, CASE WHEN TABLE_TYPE = 'VIEW' THEN 1 ELSE 0 "
                .'END AS v FROM INFORMATION_SCHEMA.TABLES ORDER BY 2, 1',
        };
        try {
            $found = $this->pdo->query($sql);
        } catch (PDOException $e) {
            throw ReadingError::broken(
                'The database does not list its tables, so write a SELECT: '.mb_substr($e->getMessage(), 0, 200),
            );
        }
        $tables = [];
        foreach ($found === false ? [] : $found->fetchAll(PDO::FETCH_NUM) as [$name, $schema, $view]) {
            $tables[] = [
                'name' => ($schema === '' || $schema === 'public' || $schema === 'dbo' ? '' : "$schema.").$name,
                'schema' => (string) $schema,
                'view' => (bool) $view,
            ];
        }

        return $tables;
    }

    public function quote(string $identifier): string
    {
        [$open, $close] = match ($this->driver) {
            'mysql' => ['`', '`'],
            'dblib' => ['[', ']'],
            default => ['"', '"'],
        };

        return $open.str_replace($close, $close.$close, $identifier).$close;
    }

    /** A table's name, perhaps with its schema before a point. */
    public function quoteTable(string $name): string
    {
        $known = array_column($this->driver === 'odbc' ? [] : $this->tables(), 'name');
        if ($known !== [] && ! in_array($name, $known, true)) {
            throw ReadingError::broken(
                "The database has no table or view \"$name\".".' It has '.implode(', ', array_slice($known, 0, 15))
                    .(count($known) > 15 ? ' …' : '').'.',
            );
        }

        return $this->driver === 'sqlite' || $this->driver === 'mysql'
            ? $this->quote($name)
            : implode('.', array_map($this->quote(...), explode('.', $name, 2)));
    }
}
