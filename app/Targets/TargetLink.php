<?php

namespace App\Targets;

use App\Models\Target;
use Baggage\Core\Loading\TargetUnavailable;
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

    public function pdo(): PDO
    {
        try {
            return $this->pdo ??= $this->open();
        } catch (PDOException $e) {
            throw new TargetUnavailable(self::explain($e, $this->target), 0, $e);
        }
    }

    public function drop(): void
    {
        $this->pdo = null;
    }

    public static function isLost(PDOException $e): bool
    {
        return in_array((int) ($e->errorInfo[1] ?? 0), self::LOST, true) || str_contains($e->getMessage(), 'server has gone away');
    }

    /** What is wrong, in words one can act on. */
    public static function explain(PDOException $e, Target $target): string
    {
        $where = $target->resolved('host').':'.$target->resolved('port');
        $database = $target->resolved('database');
        $user = $target->resolved('username');

        return match ((int) ($e->errorInfo[1] ?? $e->getCode())) {
            2002, 2003, 2005 => "No database answers at $where. Is it running, and may this machine reach it?",
            1045 => "The database at $where refuses the user \"$user\": the user name or the password is wrong.",
            1049 => "The database server at $where has no database \"$database\".",
            1044 => "The user \"$user\" may not use the database \"$database\".",
            2006, 2013, 1927, 1053 => "The connection to $where was lost.",
            default => "The database at $where does not answer as it should: ".$e->getMessage(),
        };
    }

    private function open(): PDO
    {
        $t = $this->target;
        $pdo = new PDO("mysql:host={$t->resolved('host')};port={$t->resolved('port')};dbname={$t->resolved('database')};charset=utf8mb4", $t->resolved('username'), $t->secret(), [
            PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION,
            PDO::ATTR_TIMEOUT => 5,
            PDO::ATTR_EMULATE_PREPARES => true,
            PDO::ATTR_STRINGIFY_FETCHES => true,
        ]);
        // Strict, so that a value that does not fit is refused and never cut or turned into zero.
        $pdo->exec("SET SESSION sql_mode = 'STRICT_ALL_TABLES,NO_ZERO_DATE,NO_ZERO_IN_DATE,ERROR_FOR_DIVISION_BY_ZERO,NO_ENGINE_SUBSTITUTION', time_zone = '+00:00'");

        return $pdo;
    }
}
