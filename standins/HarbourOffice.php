<?php

namespace Standins;

use PDO;

/** The demo's new application: a database with its own rules and a few rows in it already. */
final class HarbourOffice
{
    /** Brings the database to the state in which the new application was delivered; everything in it goes. */
    public static function reset(PDO $pdo): void
    {
        $pdo->exec('SET FOREIGN_KEY_CHECKS = 0');
        $tables = $pdo->query('SHOW TABLES');
        foreach ($tables === false ? [] : $tables->fetchAll(PDO::FETCH_COLUMN) as $table) {
            $pdo->exec('DROP TABLE `'.str_replace('`', '``', $table).'`');
        }
        $pdo->exec('SET FOREIGN_KEY_CHECKS = 1');
        $sql = preg_replace('/^--.*$/m', '', (string) file_get_contents(__DIR__.'/harbour-office.sql'));
        foreach (array_filter(array_map(trim(...), explode(";\n", (string) $sql))) as $statement) {
            $pdo->exec($statement);
        }
    }
}
