<?php

namespace App\Targets\Sql;

use Baggage\Core\Loading\Receipt;
use Baggage\Core\Loading\Stretch;
use PDO;

/** The small table inside the target that holds one receipt for each stretch of rows, written with its records. */
final class Receipts
{
    public const TABLE = 'baggage_receipts';

    public static function prepare(PDO $pdo): void
    {
        $pdo->exec(
            'CREATE TABLE IF NOT EXISTS '.self::TABLE
                .' (stretch VARCHAR(120) NOT NULL PRIMARY KEY, pass VARCHAR(80) NOT NULL,
            receipt LONGBLOB NOT NULL, KEY (pass)) ENGINE=InnoDB',
        );
    }

    public static function put(PDO $pdo, Stretch $stretch, string $receipt): void
    {
        $pdo->exec(
            'INSERT INTO '.self::TABLE.' VALUES ('.$pdo->quote($stretch->name()).','
                .$pdo->quote("$stretch->installation:$stretch->pass").",X'".bin2hex($receipt)."')",
        );
    }

    public static function find(PDO $pdo, Stretch $stretch): ?Receipt
    {
        $receipt = 'LEFT(receipt, '.Receipt::LARGEST.')';
        $found = $pdo->query("SELECT $receipt FROM ".self::TABLE.' WHERE stretch = '.$pdo->quote($stretch->name()));
        $receipt = $found === false ? false : $found->fetchColumn();

        return $receipt === false ? null : Receipt::unpack((string) $receipt);
    }

    public static function clear(PDO $pdo, string $installation, int $pass): void
    {
        $pdo->exec('DELETE FROM '.self::TABLE.' WHERE pass = '.$pdo->quote("$installation:$pass"));
    }
}
