<?php

namespace App\Reading\Database;

use Baggage\Core\Reading\Database\Driver;
use PDOException;

/** Why a database does not answer, in words one can act on. */
final class ConnectionFailure
{
    private const NO_HOST = '/could not translate host name|getaddrinfo|Name or service not known|Temporary failure in name/';

    private const SILENT = '/Connection refused|timed out|timeout|No route to host|Unable to connect|unavailable or does not exist/i';

    private const WRONG_LOGIN = '/password authentication failed|no password supplied|Login failed|Login incorrect/';

    public static function explain(Login $login, PDOException $e): string
    {
        $database = $login->said($login->address->database);
        $where = self::where($login);
        $user = $login->said($login->user);
        $text = $e->getMessage();

        return match (true) {
            self::isWrongLogin($login, $e) => "The database at $where refuses the user \"$user\": the user name or the password is wrong.",
            self::isNoDatabase($login, $e) => "The server at $where has no database \"$database\".",
            // MariaDB says this also of a database that is not there, to a user who may not know.
            self::code($login, $e, [1044]) => "The server at $where has no database \"$database\", or the user \"$user\" may not use it.",
            str_contains($text, 'permission denied') => "The user \"$user\" may not use the database \"$database\".",
            preg_match(self::NO_HOST, $text) === 1 => "There is no host \"{$login->said(
                $login->address->host,
            )}\": check its name.",
            self::code($login, $e, [2002, 2003, 2005]) || preg_match(self::SILENT, $text) === 1 => 'No database '
                ."answers at $where. Is it running, and may this machine reach it?",
            self::code($login, $e, [2006, 2013, 1927, 1053]) => "The connection to $where was lost.",
            str_contains($text, 'Data source name not found') => "This machine knows no ODBC source \"$database\". "
                .'Its administrator describes it in /etc/odbc.ini.',
            str_contains($text, 'driver manager') || str_contains($text, "Can't open lib") => 'The ODBC driver that '
                ."\"$database\" names is not installed on this machine. "
                ."For old desktop databases Debian's package odbc-mdbtools brings one.",
            default => "The database at $where does not answer as it should: ".self::without($login, $text),
        };
    }

    private static function where(Login $login): string
    {
        return $login->address->driver === Driver::Odbc
            ? "the ODBC source \"{$login->said($login->address->database)}\""
            : "{$login->said($login->address->host)} port {$login->said($login->address->port)}";
    }

    private static function isWrongLogin(Login $login, PDOException $e): bool
    {
        $driver = $login->address->driver;

        return ($driver !== Driver::Pgsql && in_array(self::number($e), [1045, 18456], true))
            || preg_match(self::WRONG_LOGIN, $e->getMessage()) === 1
            // The driver for SQL Server has one message for all of these.
            || ($driver === Driver::SqlServer && str_contains($e->getMessage(), 'connection failed'));
    }

    private static function isNoDatabase(Login $login, PDOException $e): bool
    {
        return self::code($login, $e, [1049])
            || preg_match('/database "[^"]*" does not exist|Cannot open database/', $e->getMessage()) === 1;
    }

    /** @param  list<int>  $codes of MariaDB */
    private static function code(Login $login, PDOException $e, array $codes): bool
    {
        return $login->address->driver === Driver::Mysql && in_array(self::number($e), $codes, true);
    }

    private static function number(PDOException $e): int
    {
        return (int) ($e->errorInfo[1] ?? $e->getCode());
    }

    private static function without(Login $login, string $text): string
    {
        return $login->said(
            mb_substr((string) preg_replace('/^SQLSTATE\[\w+\]:?\s*(\[\d+\])?\s*/', '', $text), 0, 300),
        );
    }
}
