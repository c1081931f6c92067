<?php

namespace Standins;

use PDO;

/** The demo's new application: a database with its own rules and a few rows in it already. */
final class HarbourOffice
{
    /** The comment of its tables. */
    private const MARKER = 'harbour office stand-in';

    /**
     * Brings the database to the state in which the new application was delivered; everything in it goes.
     *
     * @throws \DomainException where the database holds tables and none of them is the stand-in's
     */
    public static function reset(PDO $pdo): void
    {
        $tables = self::tables($pdo);
        if ($tables !== [] && ! in_array(self::MARKER, $tables, true)) {
            throw new \DomainException(
                'This database is not the stand-in\'s: none of its tables bears its marker. Nothing was changed.',
            );
        }
        $pdo->exec('SET FOREIGN_KEY_CHECKS = 0');
        foreach (array_keys($tables) as $table) {
            $pdo->exec('DROP TABLE `'.str_replace('`', '``', $table).'`');
        }
        $pdo->exec('SET FOREIGN_KEY_CHECKS = 1');
        $sql = preg_replace('/^--.*$/m', '', (string) file_get_contents(__DIR__.'/harbour-office.sql'));
        foreach (array_filter(array_map(trim(...), explode(";\n", (string) $sql))) as $statement) {
            $pdo->exec($statement);
        }
    }

    /** @return array<string, string> table → its comment */
    private static function tables(PDO $pdo): array
    {
        $found = $pdo->query("SELECT table_name, table_comment FROM information_schema.tables
            WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE'");

        return $found === false ? [] : $found->fetchAll(PDO::FETCH_KEY_PAIR);
    }
}
