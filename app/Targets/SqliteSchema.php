<?php

namespace App\Targets;

use Baggage\Core\Targets\Conditions\Condition;
use Baggage\Core\Targets\Describing\DescriptionError;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Schema;
use PDO;

/** Entities and fields from the schema of an SQLite database. */
final readonly class SqliteSchema
{
    private const TABLES = "SELECT name, sql FROM sqlite_master WHERE type = 'table'
        AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY rowid";

    public function __construct(private PDO $db)
    {
    }

    /** @throws DescriptionError */
    public function read(): Schema
    {
        $entities = [];
        foreach ($this->all(self::TABLES) as ['name' => $table, 'sql' => $sql]) {
            $quoted = $this->db->quote($table);
            $columns = $this->all("SELECT * FROM pragma_table_xinfo($quoted)");
            $keys = array_values(array_filter($columns, fn ($c) => (int) $c['pk'] > 0));
            if (count($keys) === 1) {
                $fields = $this->fields($quoted, $columns, $keys[0]['name'], (string) $sql);
                $entities[] = new Entity($table, $keys[0]['name'], $fields, $this->uniques($quoted), self::checks((string) $sql));
            }
        }

        return PlainField::schema($entities);
    }

    /**
     * @param  list<array<string, mixed>>  $columns
     * @return list<Field>
     */
    private function fields(string $quoted, array $columns, string $key, string $sql): array
    {
        $references = $this->all("SELECT \"table\" AS t, \"from\" AS c FROM pragma_foreign_key_list($quoted)");
        $refers = array_column($references, 't', 'c');
        $fields = [];
        foreach ($columns as $c) {
            // An INTEGER PRIMARY KEY is the row number, given by SQLite itself (SQLite, "CREATE TABLE", 5).
            $isRowNumber = $c['name'] === $key && strtoupper($c['type']) === 'INTEGER';
            $none = $c['dflt_value'] === null || strtoupper($c['dflt_value']) === 'NULL';
            $fields[] = PlainField::of(
                $c['name'],
                $c['type'],
                (bool) $c['notnull'],
                $isRowNumber || (int) $c['hidden'] > 1,
                $refers[$c['name']] ?? null,
                $none ? null : trim($c['dflt_value'], "'"),
                self::checks($sql),
            );
        }

        return $fields;
    }

    /** @return list<string> clauses, from the statement that made the table */
    private static function checks(string $sql): array
    {
        preg_match_all("/\\bCHECK\\s*(\\((?:[^()']|'(?:[^']|'')*+'|(?1))*+\\))/i", $sql, $found);

        return array_map(Condition::plain(...), $found[1]);
    }

    /** @return list<list<string>> */
    private function uniques(string $quoted): array
    {
        $uniques = [];
        foreach ($this->all("SELECT name FROM pragma_index_list($quoted) WHERE \"unique\" = 1 AND origin <> 'pk'") as $index) {
            $columns = $this->all('SELECT name FROM pragma_index_info('.$this->db->quote($index['name']).')');
            $uniques[] = array_column($columns, 'name');
        }

        return array_values(array_filter($uniques));
    }

    /** @return list<array<string, mixed>> */
    private function all(string $sql): array
    {
        $found = $this->db->query($sql);

        return $found === false ? [] : $found->fetchAll(PDO::FETCH_ASSOC);
    }
}
