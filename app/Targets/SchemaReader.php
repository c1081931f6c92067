<?php

namespace App\Targets;

use Baggage\Core\Targets\ColumnReading;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Schema;
use PDO;

/** Reads entities and fields from the target database's own schema. */
final class SchemaReader
{
    public function read(TargetLink $link): Schema
    {
        $pdo = $link->pdo();
        $of = function (string $sql) use ($pdo): array {
            $found = $pdo->query($sql);

            return $found === false ? [] : $found->fetchAll(PDO::FETCH_ASSOC);
        };
        $tables = $of(
            'SELECT table_name AS name FROM information_schema.tables WHERE table_schema = DATABASE() '
                ."AND table_type = 'BASE TABLE' ORDER BY create_time, table_name",
        );
        $columns = $primary = $uniques = $references = $checks = [];
        foreach (
            $of(
                'SELECT table_name AS t, column_name AS name, column_type AS type, character_maximum_length AS '
                    .'length, is_nullable AS nullable, column_default AS dflt, extra, generation_expression AS '
                    .'generated FROM information_schema.columns WHERE table_schema = DATABASE() ORDER BY table_name, ordinal_position',
            ) as $c
        ) {
            $columns[$c['t']][] = $c;
        }
        foreach (
            $of(
                'SELECT table_name AS t, index_name AS i, column_name AS c FROM information_schema.statistics '
                    .'WHERE table_schema = DATABASE() AND non_unique = 0 ORDER BY table_name, index_name, seq_in_index',
            ) as $s
        ) {
            if ($s['i'] === 'PRIMARY') {
                $primary[$s['t']][] = $s['c'];
            } else {
                $uniques[$s['t']][$s['i']][] = $s['c'];
            }
        }
        foreach (
            $of(
                'SELECT table_name AS t, column_name AS c, referenced_table_name AS r '
                    .'FROM information_schema.key_column_usage WHERE table_schema = DATABASE() AND referenced_table_name IS NOT NULL',
            ) as $k
        ) {
            $references[$k['t']][$k['c']] = $k['r'];
        }
        foreach (
            $of(
                'SELECT table_name AS t, check_clause AS c FROM information_schema.check_constraints WHERE constraint_schema = DATABASE()',
            ) as $k
        ) {
            $checks[$k['t']][] = $k['c'];
        }
        $entities = [];
        foreach ($tables as ['name' => $table]) {
            // Only a record with a key of one column can be pointed at by a crosswalk.
            if ($table === Receipts::TABLE || count($primary[$table] ?? []) !== 1) {
                continue;
            }
            $fields = [];
            foreach ($columns[$table] as $c) {
                $default = $c['dflt'] === null || $c['dflt'] === 'NULL' ? null : trim($c['dflt'], "'");
                $assigned = str_contains($c['extra'], 'auto_increment')
                    || (string) $c['generated'] !== ''
                    || str_contains($c['extra'], 'on update')
                    || ($default !== null && str_contains($default, 'current_timestamp'));
                $fields[] = new Field(
                    $c['name'],
                    ColumnReading::type(
                        $c['name'],
                        $c['type'],
                        $c['length'] === null ? null : (int) $c['length'],
                        $checks[$table] ?? [],
                    ),
                    $c['nullable'] === 'NO' && $default === null && ! $assigned,
                    $assigned,
                    $references[$table][$c['name']] ?? null,
                    $assigned ? null : $default,
                );
            }
            $entities[] = new Entity($table, $primary[$table][0], $fields, array_values($uniques[$table] ?? []));
        }

        return new Schema($entities);
    }
}
