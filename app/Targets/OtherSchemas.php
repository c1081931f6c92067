<?php

namespace App\Targets;

use App\Models\Connection;
use App\Reading\Database\DatabaseLink;
use App\Reading\SheetLines;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Targets\ColumnReading;
use Baggage\Core\Targets\Describing\DescriptionError;
use Baggage\Core\Targets\Describing\ObjectSchemas;
use Baggage\Core\Targets\Describing\SheetDescription;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Schema;
use PDO;
use Symfony\Component\Yaml\Exception\ParseException;
use Symfony\Component\Yaml\Yaml;

/** Entities and fields from a description in a file, or from the schema of a database that is not the target itself. */
final class OtherSchemas
{
    /**
     * A sheet, JSON Schema or OpenAPI as JSON or YAML, or an SQLite database.
     *
     * @throws DescriptionError|ReadingError
     */
    public static function ofFile(string $path, string $name): Schema
    {
        $head = (string) file_get_contents($path, false, null, 0, 16);
        if (str_starts_with($head, 'SQLite format 3')) {
            return self::sqlite(DatabaseLink::file($path)->pdo);
        }
        $yaml = preg_match('/\.ya?ml$/i', $name) === 1;
        if ($yaml || preg_match('/^[\xEF\xBB\xBF\s]*\{/', $head) === 1) {
            $text = (string) file_get_contents($path);
            try {
                $document = $yaml
                    ? Yaml::parse($text)
                    : json_decode((string) preg_replace('/^\xEF\xBB\xBF/', '', $text), true, 512, JSON_THROW_ON_ERROR);
            } catch (ParseException|\JsonException $e) {
                throw new DescriptionError("$name is not ".($yaml ? 'YAML' : 'JSON').": {$e->getMessage()}");
            }

            return is_array($document)
                ? ObjectSchemas::read($document)
                : throw new DescriptionError("$name holds no object.");
        }

        return SheetDescription::read(SheetLines::of($path, $name, null, ['Entity', 'Field']));
    }

    /** @throws ReadingError|DescriptionError */
    public static function ofPostgres(Connection $connection): Schema
    {
        return self::postgres(DatabaseLink::to($connection)->pdo);
    }

    private static function sqlite(PDO $db): Schema
    {
        $entities = [];
        foreach (
            self::all(
                $db,
                "SELECT name, sql FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY rowid",
            ) as ['name' => $table, 'sql' => $sql]
        ) {
            $quoted = $db->quote($table);
            $columns = self::all($db, "SELECT * FROM pragma_table_xinfo($quoted)");
            $keys = array_values(array_filter($columns, fn ($c) => (int) $c['pk'] > 0));
            if (count($keys) !== 1) {
                continue;
            }
            $refers = array_column(
                self::all($db, "SELECT \"table\" AS t, \"from\" AS c FROM pragma_foreign_key_list($quoted)"),
                't',
                'c',
            );
            $uniques = [];
            foreach (
                self::all($db, "SELECT name FROM pragma_index_list($quoted) WHERE \"unique\" = 1 AND origin <> 'pk'") as ['name' => $index]
            ) {
                $uniques[] = array_column(
                    self::all($db, 'SELECT name FROM pragma_index_info('.$db->quote($index).')'),
                    'name',
                );
            }
            preg_match_all('/CHECK\s*(\((?:[^()]|(?1))*\))/i', (string) $sql, $checks);
            $fields = [];
            foreach ($columns as $c) {
                // An INTEGER PRIMARY KEY is the row number, given by SQLite itself (SQLite, "CREATE TABLE", 5).
                $isRowNumber = $c['name'] === $keys[0]['name'] && strtoupper($c['type']) === 'INTEGER';
                $assigned = $isRowNumber || (int) $c['hidden'] > 1;
                $default = $c['dflt_value'] === null || strtoupper($c['dflt_value']) === 'NULL'
                    ? null
                    : trim($c['dflt_value'], "'");
                $fields[] = self::field(
                    $c['name'],
                    $c['type'],
                    (bool) $c['notnull'],
                    $assigned,
                    $refers[$c['name']] ?? null,
                    $default,
                    $checks[1],
                );
            }
            $entities[] = new Entity($table, $keys[0]['name'], $fields, array_values(array_filter($uniques)));
        }

        return self::some($entities);
    }

    private static function postgres(PDO $db): Schema
    {
        $where = "n.nspname = current_schema() AND c.relkind IN ('r', 'p')";
        $columns = $constraints = [];
        foreach (
            self::all(
                $db,
                "SELECT c.relname AS t, a.attname AS name, format_type(a.atttypid, a.atttypmod) AS type,
                    a.attnotnull AS required, pg_get_expr(d.adbin, d.adrelid) AS dflt, a.attidentity AS identity,
                    a.attgenerated AS generated
            FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid JOIN pg_namespace n ON n.oid = c.relnamespace
            LEFT JOIN pg_attrdef d ON d.adrelid = c.oid AND d.adnum = a.attnum
            WHERE $where AND a.attnum > 0 AND NOT a.attisdropped ORDER BY c.oid, a.attnum",
            ) as $column
        ) {
            $columns[$column['t']][] = $column;
        }
        foreach (
            self::all(
                $db,
                "SELECT c.relname AS t, k.contype AS kind, pg_get_constraintdef(k.oid) AS says, r.relname AS
                    refers, (SELECT string_agg(a.attname, chr(31) ORDER BY u.n)
                    FROM unnest(k.conkey) WITH ORDINALITY u(c, n) JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum = u.c) AS names
            FROM pg_constraint k JOIN pg_class c ON c.oid = k.conrelid
            JOIN pg_namespace n ON n.oid = c.relnamespace LEFT JOIN pg_class r ON r.oid = k.confrelid WHERE $where",
            ) as $constraint
        ) {
            $constraints[$constraint['t']][$constraint['kind']][] = $constraint;
        }
        $entities = [];
        foreach ($columns as $table => $of) {
            $names = fn (array $c) => explode("\x1F", (string) $c['names']);
            $key = array_map($names, $constraints[$table]['p'] ?? [])[0] ?? [];
            if (count($key) !== 1) {
                continue;
            }
            $refers = [];
            foreach ($constraints[$table]['f'] ?? [] as $c) {
                $refers[$names($c)[0]] = $c['refers'];
            }
            // "((col)::text = ANY ((ARRAY['a'::text, 'b'::text])::text[]))" is how an IN list is kept.
            $checks = array_map(
                fn ($c) => preg_match(
                    '/\(*"?(\w+)"?\)*(?:::[a-z ]+)?\s*=\s*ANY\s*\(+ARRAY\[(.*?)\]/s',
                    (string) $c['says'],
                    $m,
                ) === 1
                    ? "$m[1] in (".preg_replace('/::[a-z ]+/', '', $m[2]).')'
                    : '',
                $constraints[$table]['c'] ?? [],
            );
            $fields = array_map(function (array $c) use ($refers, $checks) {
                $dflt = (string) $c['dflt'];
                $assigned = $c['identity'] !== ''
                    || $c['generated'] !== ''
                    || str_starts_with($dflt, 'nextval(')
                    || str_contains(strtolower($dflt), 'now()')
                    || str_contains(strtolower($dflt), 'current_timestamp');

                return self::field(
                    $c['name'],
                    $c['type'],
                    in_array($c['required'], [true, 't', '1', 1], true),
                    $assigned,
                    $refers[$c['name']] ?? null,
                    $dflt === '' ? null : trim((string) preg_replace('/::.*$/', '', $dflt), "'"),
                    $checks,
                );
            }, $of);
            $entities[] = new Entity(
                (string) $table,
                $key[0],
                $fields,
                array_map($names, $constraints[$table]['u'] ?? []),
            );
        }

        return self::some($entities);
    }

    /** @param  list<string>  $checks */
    private static function field(
        string $name,
        string $type,
        bool $required,
        bool $assigned,
        ?string $refers,
        ?string $default,
        array $checks,
    ): Field {
        $type = strtolower($type);
        $length = preg_match('/char(?:acter)?(?: varying)?\s*\((\d+)\)/', $type, $m) === 1 ? (int) $m[1] : null;
        $plain = match (true) {
            str_starts_with($type, 'timestamp') => 'datetime',
            str_starts_with($type, 'bool') => 'tinyint(1)',
            in_array($type, ['integer', 'serial'], true) => 'int',
            $type === 'double precision', $type === 'real' => 'double',
            in_array($type, ['numeric', 'decimal'], true) => 'decimal(30,10)',
            $type === 'text', $type === '' => 'longtext',
            default => (string) preg_replace('/,\s+/', ',', $type),
        };

        $default = $plain === 'tinyint(1)' && $default !== null
            ? (in_array(strtolower($default), ['true', '1', 't'], true)
                ? '1'
                : '0')
            : $default;

        return new Field(
            $name,
            ColumnReading::type($name, $plain, $plain === 'longtext' ? 16_777_215 : $length, $checks),
            $required && $default === null && ! $assigned,
            $assigned,
            $refers,
            $assigned ? null : $default,
        );
    }

    /** @return list<array<string, mixed>> */
    private static function all(PDO $db, string $sql): array
    {
        $found = $db->query($sql);

        return $found === false ? [] : $found->fetchAll(PDO::FETCH_ASSOC);
    }

    /** @param  list<Entity>  $entities */
    private static function some(array $entities): Schema
    {
        return $entities === []
            ? throw new DescriptionError('The database has no table with a primary key of one column.')
            : new Schema($entities);
    }
}
