<?php

namespace App\Targets\Sql;

use Baggage\Core\Loading\Mark;
use PDO;

/** The small table inside the target that says which lanes wrote into it. */
final class Marks
{
    public const TABLE = 'baggage_marks';

    public static function prepare(PDO $pdo): void
    {
        $pdo->exec(
            'CREATE TABLE IF NOT EXISTS '.self::TABLE.' (installation VARCHAR(40) NOT NULL, lane INT UNSIGNED NOT NULL, '
                .'round VARCHAR(255) NOT NULL, begun DATETIME NOT NULL, PRIMARY KEY (installation, lane)) ENGINE=InnoDB '
                .'DEFAULT CHARSET=utf8mb4',
        );
    }

    public static function put(PDO $pdo, Mark $mark): void
    {
        $pdo->exec(
            'INSERT IGNORE INTO '.self::TABLE.' VALUES ('.$pdo->quote($mark->installation).",$mark->lane,".$pdo->quote($mark->round).','
                .$pdo->quote($mark->begun).')',
        );
    }

    public static function remove(PDO $pdo, string $installation, int $lane): void
    {
        $pdo->exec('DELETE FROM '.self::TABLE.' WHERE installation = '.$pdo->quote($installation)." AND lane = $lane");
    }

    /** @return list<Mark> */
    public static function all(PDO $pdo): array
    {
        $found = $pdo->query('SELECT installation, lane, round, begun FROM '.self::TABLE.' ORDER BY begun, installation, lane');

        return array_map(
            fn (array $m) => new Mark($m['installation'], (int) $m['lane'], $m['round'], $m['begun']),
            $found === false ? [] : $found->fetchAll(PDO::FETCH_ASSOC),
        );
    }
}
