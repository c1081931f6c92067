<?php

namespace App\Targets;

use App\Targets\Sql\Marks;
use App\Targets\Sql\Receipts;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Targets\ColumnReading;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Schema;
use PDO;

/** Reads entities and fields from the target database's own schema. */
final class SchemaReader
{
    private const TABLES = "SELECT table_name AS name FROM information_schema.tables
        WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE' ORDER BY create_time, table_name";

    private const COLUMNS = 'SELECT table_name AS t, column_name AS name, column_type AS type, character_maximum_length AS length,
            is_nullable AS nullable, column_default AS dflt, extra, generation_expression AS generated
        FROM information_schema.columns WHERE table_schema = DATABASE() ORDER BY table_name, ordinal_position';

    private const KEYS = 'SELECT table_name AS t, index_name AS i, column_name AS c FROM information_schema.statistics
        WHERE table_schema = DATABASE() AND non_unique = 0 ORDER BY table_name, index_name, seq_in_index';

    private const REFERENCES = 'SELECT table_name AS t, column_name AS c, referenced_table_name AS r
        FROM information_schema.key_column_usage WHERE table_schema = DATABASE() AND referenced_table_name IS NOT NULL';

    private const CHECKS = 'SELECT table_name AS t, check_clause AS c FROM information_schema.check_constraints
        WHERE constraint_schema = DATABASE()';

    /** @throws TargetUnavailable */
    public function read(TargetLink $link): Schema
    {
        $pdo = $link->pdo();
        $columns = $keys = $references = $checks = [];
        foreach ($this->all($pdo, self::COLUMNS) as $c) {
            $columns[$c['t']][] = $c;
        }
        foreach ($this->all($pdo, self::KEYS) as $k) {
            $keys[$k['t']][$k['i']][] = $k['c'];
        }
        foreach ($this->all($pdo, self::REFERENCES) as $r) {
            $references[$r['t']][$r['c']] = $r['r'];
        }
        foreach ($this->all($pdo, self::CHECKS) as $c) {
            $checks[$c['t']][] = $c['c'];
        }
        $entities = $others = [];
        foreach ($this->all($pdo, self::TABLES) as ['name' => $table]) {
            $primary = $keys[$table]['PRIMARY'] ?? [];
            if (in_array($table, [Receipts::TABLE, Marks::TABLE], true)) {
                continue;
            }
            // Only a record with a key of one column can be pointed at by a crosswalk.
            if (count($primary) !== 1) {
                $others[$table] = $primary === [] ? 'it has no primary key' : 'its primary key has '.count($primary).' columns, not one';
            } else {
                $field = fn (array $c) => $this->field($c, $references[$table] ?? [], $checks[$table] ?? []);
                $uniques = array_values(array_diff_key($keys[$table], ['PRIMARY' => 0]));
                $entities[] = new Entity($table, $primary[0], array_map($field, $columns[$table]), $uniques, $checks[$table] ?? []);
            }
        }

        return new Schema($entities, $others);
    }

    /**
     * @param  array<string, mixed>  $column
     * @param  array<string, string>  $references  column → table
     * @param  list<string>  $checks
     */
    private function field(array $column, array $references, array $checks): Field
    {
        $none = $column['dflt'] === null || $column['dflt'] === 'NULL';
        $default = $none ? null : trim($column['dflt'], "'");
        $assigned = preg_match('/auto_increment|on update/', $column['extra']) === 1
            || (string) $column['generated'] !== ''
            || str_contains((string) $default, 'current_timestamp');
        $length = $column['length'] === null ? null : (int) $column['length'];

        return new Field(
            $column['name'],
            ColumnReading::type($column['name'], $column['type'], $length, $checks),
            $column['nullable'] === 'NO' && $default === null && ! $assigned,
            $assigned,
            $references[$column['name']] ?? null,
            $assigned ? null : $default,
        );
    }

    /** @return list<array<string, mixed>> */
    private function all(PDO $pdo, string $sql): array
    {
        $found = $pdo->query($sql);

        return $found === false ? [] : $found->fetchAll(PDO::FETCH_ASSOC);
    }
}
