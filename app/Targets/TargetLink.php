<?php

namespace App\Targets;

use App\Models\Target;
use App\Reading\Database\ConnectionFailure;
use App\Reading\Database\Login;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Reading\Database\AddressError;
use PDO;
use PDOException;

/** The connection to a target database; made when first needed and again after it was lost. */
final class TargetLink
{
    private const LOST = [1040, 1042, 1043, 1053, 1080, 1129, 1152, 1927, 2002, 2003, 2006, 2013, 2055];

    private ?PDO $pdo = null;

    public function __construct(public readonly Target $target)
    {
    }

    /** @throws TargetUnavailable */
    public function pdo(): PDO
    {
        try {
            return $this->pdo ??= $this->open();
        } catch (AddressError $e) {
            throw TargetUnavailable::because($e->getMessage(), $e);
        } catch (PDOException $e) {
            throw TargetUnavailable::because($this->explain($e), $e);
        }
    }

    public function drop(): void
    {
        $this->pdo = null;
    }

    public static function isLost(PDOException $e): bool
    {
        return in_array((int) ($e->errorInfo[1] ?? 0), self::LOST, true)
            || str_contains($e->getMessage(), 'server has gone away');
    }

    /** What is wrong, in words one can act on. */
    public function explain(PDOException $e): string
    {
        return ConnectionFailure::explain(Login::into($this->target), $e);
    }

    private function open(): PDO
    {
        // One that says nothing any more is gone, however long its connection stands. It is read when a connection is made.
        $before = (string) ini_set('mysqlnd.net_read_timeout', (string) config('baggage.statement.target'));
        try {
            // A target asks for no file of this machine.
            $pdo = Login::into($this->target)->open([
                PDO::ATTR_EMULATE_PREPARES => true,
                PDO::MYSQL_ATTR_LOCAL_INFILE => false,
                PDO::MYSQL_ATTR_MULTI_STATEMENTS => false,
            ]);
        } finally {
            ini_set('mysqlnd.net_read_timeout', $before);
        }
        // Workers beside each other lock what they write, not the gaps between.
        $pdo->exec('SET SESSION TRANSACTION ISOLATION LEVEL READ COMMITTED');
        // Strict, so that a value that does not fit is refused and never cut or turned into zero.
        $pdo->exec(
            "SET SESSION sql_mode = 'STRICT_ALL_TABLES,NO_ZERO_DATE,NO_ZERO_IN_DATE,ERROR_FOR_DIVISION_BY_ZERO,"
                ."NO_ENGINE_SUBSTITUTION', time_zone = '+00:00'",
        );

        return $pdo;
    }
}
