<?php

namespace App\Reading\Database;

use App\Models\Connection;
use Baggage\Core\Reading\ReadingError;
use PDO;
use PDOException;

/** A read-only connection to a legacy database, and what went wrong in words one can act on. */
final class DatabaseLink
{
    /** Driver → the Debian package that brings it. */
    private const PACKAGES = ['mysql' => 'php8.2-mysql', 'pgsql' => 'php8.2-pgsql', 'dblib' => 'php8.2-sybase', 'odbc' => 'php8.2-odbc', 'sqlite' => 'php8.2-sqlite3'];

    private function __construct(public readonly PDO $pdo, public readonly string $driver)
    {
    }

    /** @throws ReadingError */
    public static function file(string $path): self
    {
        self::needDriver('sqlite');
        self::refuseCutOff($path);
        try {
            $pdo = new PDO("sqlite:$path", null, null, self::options() + [PDO::SQLITE_ATTR_OPEN_FLAGS => PDO::SQLITE_OPEN_READONLY]);
            $pdo->exec('PRAGMA query_only = 1');
            $pdo->exec('PRAGMA trusted_schema = 0');
            $pdo->query('SELECT COUNT(*) FROM sqlite_master');
        } catch (PDOException $e) {
            throw ReadingError::broken(str_contains($e->getMessage(), 'malformed') || str_contains($e->getMessage(), 'not a database')
                ? 'The SQLite database is damaged or cut off. Ask for the file again, closed by its program.' : 'The SQLite database cannot be opened: '.$e->getMessage());
        }

        return new self($pdo, 'sqlite');
    }

    /** The header states the size of a page and their number (SQLite, "Database File Format", 1.3); a file with fewer was cut off. */
    private static function refuseCutOff(string $path): void
    {
        $head = (string) file_get_contents($path, false, null, 0, 32);
        $size = strlen($head) === 32 ? (unpack('n', substr($head, 16, 2))[1] ?? 0) : 0;
        $pages = strlen($head) === 32 ? (unpack('N', substr($head, 28, 4))[1] ?? 0) : 0;
        $size = $size === 1 ? 65_536 : $size;
        if ($size === 0 || (int) filesize($path) < $size * $pages) {
            throw ReadingError::broken('The SQLite database is damaged or cut off: it states '.number_format($size * $pages).' bytes and has '.number_format((int) filesize($path)).'. Ask for the file again, closed by its program.');
        }
    }

    /** @throws ReadingError */
    public static function to(Connection $c): self
    {
        self::needDriver($c->driver);
        [$host, $port, $database] = [$c->resolved('host'), $c->resolved('port'), $c->resolved('database')];
        $dsn = match ($c->driver) {
            'mysql' => "mysql:host=$host;port=".($port ?: '3306').";dbname=$database;charset=utf8mb4",
            'pgsql' => "pgsql:host=$host;port=".($port ?: '5432').";dbname=$database;connect_timeout=5",
            'dblib' => "dblib:host=$host:".($port ?: '1433').";dbname=$database;charset=UTF-8",
            // An ODBC source is named in the machine's odbc.ini, or described by a connection string.
            'odbc' => "odbc:$database",
            default => throw ReadingError::broken("There is no driver \"$c->driver\"."),
        };
        foreach ([$host, $database, $port] as $part) {
            if ($c->driver !== 'odbc' && preg_match('/[;\s]/', $part) === 1) {
                throw ReadingError::broken('Host, port and database may hold neither blanks nor semicolons.');
            }
        }
        try {
            $options = self::options() + ($c->driver === 'mysql' ? [PDO::MYSQL_ATTR_USE_BUFFERED_QUERY => false, PDO::MYSQL_ATTR_MULTI_STATEMENTS => false, PDO::MYSQL_ATTR_LOCAL_INFILE => false] : []);
            $pdo = new PDO($dsn, $c->resolved('username'), $c->secret(), $options);
            match ($c->driver) {
                'mysql' => $pdo->exec('START TRANSACTION WITH CONSISTENT SNAPSHOT, READ ONLY'),
                'pgsql' => $pdo->exec('BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY'),
                default => 0,
            };
        } catch (PDOException $e) {
            throw ReadingError::broken(self::refusedDatabase($c, $e) ?? self::explain($c, $e));
        }

        return new self($pdo, $c->driver);
    }

    /** The driver for SQL Server says the same of a wrong password and of a missing database: without the name of one it tells which. */
    private static function refusedDatabase(Connection $c, PDOException $e): ?string
    {
        if ($c->driver !== 'dblib' || $c->resolved('database') === '' || ! str_contains($e->getMessage(), 'connection failed')) {
            return null;
        }
        [$host, $port] = [$c->resolved('host'), $c->resolved('port') ?: '1433'];
        try {
            new PDO("dblib:host=$host:$port;charset=UTF-8", $c->resolved('username'), $c->secret(), self::options());
        } catch (PDOException) {
            return null;
        }

        return "The server at $host port $port has no database \"{$c->resolved('database')}\", or the user \"{$c->resolved('username')}\" may not open it.";
    }

    /** @return array<int, mixed> */
    private static function options(): array
    {
        return [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION, PDO::ATTR_TIMEOUT => 5, PDO::ATTR_STRINGIFY_FETCHES => true, PDO::ATTR_ORACLE_NULLS => PDO::NULL_NATURAL];
    }

    private static function needDriver(string $driver): void
    {
        if (! in_array($driver, PDO::getAvailableDrivers(), true)) {
            $package = self::PACKAGES[$driver] ?? "php8.2-$driver";
            throw ReadingError::broken("The driver for $driver is not installed on this machine. Debian's package $package brings it: apt-get install $package, then start Baggage again.");
        }
    }

    public static function explain(Connection $c, PDOException $e): string
    {
        $text = $e->getMessage();
        [$host, $database, $user] = [$c->resolved('host'), $c->resolved('database'), $c->resolved('username')];
        $where = $c->driver === 'odbc' ? "the ODBC source \"$database\"" : "$host port ".($c->resolved('port') ?: ['mysql' => 3306, 'pgsql' => 5432, 'dblib' => 1433][$c->driver]);
        $code = (int) ($e->errorInfo[1] ?? $e->getCode());

        return match (true) {
            in_array($code, [1045, 18456], true) && $c->driver !== 'pgsql', str_contains($text, 'password authentication failed'), str_contains($text, 'no password supplied'), str_contains($text, 'Login failed'), str_contains($text, 'Login incorrect'), $c->driver === 'dblib' && str_contains($text, 'connection failed') => "The database at $where refuses the user \"$user\": the user name or the password is wrong.",
            $code === 1049 && $c->driver === 'mysql', preg_match('/database "[^"]*" does not exist/', $text) === 1, str_contains($text, 'Cannot open database') => "The server at $where has no database \"$database\".",
            $code === 1044 && $c->driver === 'mysql', str_contains($text, 'permission denied') => "The user \"$user\" may not read the database \"$database\".",
            preg_match('/could not translate host name|getaddrinfo|Name or service not known|Temporary failure in name/', $text) === 1 => "There is no host \"$host\": check its name.",
            in_array($code, [2002, 2003], true) && $c->driver === 'mysql', preg_match('/Connection refused|timed out|timeout|No route to host|Unable to connect|unavailable or does not exist/i', $text) === 1 => "No database answers at $where. Is it running, and may this machine reach it?",
            str_contains($text, 'Data source name not found') => "This machine knows no ODBC source \"$database\". Describe it in /etc/odbc.ini, or give a connection string that names an installed driver.",
            str_contains($text, 'driver manager') || str_contains($text, "Can't open lib") => "The ODBC driver that \"$database\" names is not installed on this machine. For old desktop databases Debian's package odbc-mdbtools brings one.",
            default => "The database at $where does not answer as it should: ".mb_substr((string) preg_replace('/^SQLSTATE\[\w+\]\s*(\[\d+\])?\s*/', '', $text), 0, 300),
        };
    }

    /** @return list<array{name: string, schema: string, view: bool}> */
    public function tables(): array
    {
        $sql = match ($this->driver) {
            'sqlite' => "SELECT name, '' AS s, type = 'view' AS v FROM sqlite_master WHERE type IN ('table', 'view') AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY name",
            'mysql' => "SELECT table_name AS name, '' AS s, table_type = 'VIEW' AS v FROM information_schema.tables WHERE table_schema = DATABASE() ORDER BY table_name",
            'pgsql' => "SELECT table_name AS name, table_schema AS s, CASE WHEN table_type = 'VIEW' THEN 1 ELSE 0 END AS v FROM information_schema.tables WHERE table_schema NOT IN ('pg_catalog', 'information_schema') ORDER BY 2, 1",
            default => "SELECT TABLE_NAME AS name, TABLE_SCHEMA AS s, CASE WHEN TABLE_TYPE = 'VIEW' THEN 1 ELSE 0 END AS v FROM INFORMATION_SCHEMA.TABLES ORDER BY 2, 1",
        };
        try {
            $found = $this->pdo->query($sql);
        } catch (PDOException $e) {
            throw ReadingError::broken('The database does not list its tables, so write a SELECT: '.mb_substr($e->getMessage(), 0, 200));
        }
        $tables = [];
        foreach ($found === false ? [] : $found->fetchAll(PDO::FETCH_NUM) as [$name, $schema, $view]) {
            $tables[] = ['name' => ($schema === '' || $schema === 'public' || $schema === 'dbo' ? '' : "$schema.").$name, 'schema' => (string) $schema, 'view' => (bool) $view];
        }

        return $tables;
    }

    public function quote(string $identifier): string
    {
        [$open, $close] = match ($this->driver) {
            'mysql' => ['`', '`'], 'dblib' => ['[', ']'], default => ['"', '"'],
        };

        return $open.str_replace($close, $close.$close, $identifier).$close;
    }

    /** A table's name, perhaps with its schema before a point. */
    public function quoteTable(string $name): string
    {
        $known = array_column($this->driver === 'odbc' ? [] : $this->tables(), 'name');
        if ($known !== [] && ! in_array($name, $known, true)) {
            throw ReadingError::broken("The database has no table or view \"$name\".".' It has '.implode(', ', array_slice($known, 0, 15)).(count($known) > 15 ? ' …' : '').'.');
        }

        return $this->driver === 'sqlite' || $this->driver === 'mysql' ? $this->quote($name) : implode('.', array_map($this->quote(...), explode('.', $name, 2)));
    }
}
