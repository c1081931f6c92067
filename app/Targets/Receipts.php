<?php

namespace App\Targets;

use Baggage\Core\Loading\BatchId;
use PDO;

/** The small table inside the target that holds one receipt per batch, written with the batch's records. */
final class Receipts
{
    public const TABLE = 'baggage_receipts';

    public static function prepare(PDO $pdo): void
    {
        $pdo->exec(
            'CREATE TABLE IF NOT EXISTS '.self::TABLE
                .' (batch VARCHAR(120) NOT NULL PRIMARY KEY, pass VARCHAR(80) NOT NULL,
            receipt LONGBLOB NOT NULL, KEY (pass)) ENGINE=InnoDB',
        );
    }

    public static function put(PDO $pdo, BatchId $batch, string $receipt): void
    {
        $pdo->exec(
            'INSERT INTO '.self::TABLE.' VALUES ('.$pdo->quote($batch->name()).','
                .$pdo->quote("$batch->installation:$batch->pass").",X'".bin2hex($receipt)."')",
        );
    }

    public static function find(PDO $pdo, BatchId $batch): ?string
    {
        $found = $pdo->query('SELECT receipt FROM '.self::TABLE.' WHERE batch = '.$pdo->quote($batch->name()));
        $receipt = $found === false ? false : $found->fetchColumn();

        return $receipt === false ? null : (string) $receipt;
    }

    /** A finished pass needs its receipts no longer. */
    public static function clear(PDO $pdo, string $installation, int $pass): void
    {
        $pdo->exec('DELETE FROM '.self::TABLE.' WHERE pass = '.$pdo->quote("$installation:$pass"));
    }
}
