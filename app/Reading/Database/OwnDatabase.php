<?php

namespace App\Reading\Database;

use Baggage\Core\Reading\Database\AddressError;
use Illuminate\Support\Facades\DB;
use PDO;

/** Keeps sources and targets away from Baggage's own tables: its users, its secrets, its ledger. */
final class OwnDatabase
{
    /** What tells one running server from another, whatever name it was reached by. */
    private const SERVER = 'SELECT CONCAT_WS(CHAR(10), @@hostname, @@port, @@socket, @@datadir, @@pid_file)';

    /**
     * A user who sees Baggage's database could be pointed at it in any SELECT, so it is not enough that another one was asked for.
     *
     * @throws AddressError
     */
    public static function refuse(PDO $opened): void
    {
        $own = DB::connection()->getPdo();
        if (self::one($opened, self::SERVER) !== self::one($own, self::SERVER)) {
            return;
        }
        $name = $own->quote(DB::connection()->getDatabaseName());
        if (self::one($opened, "SELECT COUNT(*) FROM information_schema.schemata WHERE schema_name = $name") !== '0') {
            throw AddressError::ownDatabase();
        }
    }

    private static function one(PDO $pdo, string $sql): string
    {
        $found = $pdo->query($sql);
        $value = $found === false ? '' : (string) $found->fetchColumn();
        if ($found !== false) {
            $found->closeCursor();
        }

        return $value;
    }
}
