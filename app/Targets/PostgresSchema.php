<?php

namespace App\Targets;

use Baggage\Core\Targets\Conditions\Condition;
use Baggage\Core\Targets\Describing\DescriptionError;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Schema;
use PDO;

/** Entities and fields from the schema of a PostgreSQL database (PostgreSQL 15 manual, chapter 53, System Catalogs). */
final readonly class PostgresSchema
{
    private const COLUMNS = "SELECT c.relname AS t, a.attname AS name, format_type(a.atttypid, a.atttypmod) AS type,
            a.attnotnull AS required, pg_get_expr(d.adbin, d.adrelid) AS dflt, a.attidentity AS identity,
            a.attgenerated AS generated
        FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid JOIN pg_namespace n ON n.oid = c.relnamespace
        LEFT JOIN pg_attrdef d ON d.adrelid = c.oid AND d.adnum = a.attnum
        WHERE n.nspname = current_schema() AND c.relkind IN ('r', 'p') AND a.attnum > 0 AND NOT a.attisdropped
        ORDER BY c.oid, a.attnum";

    private const CONSTRAINTS = "SELECT c.relname AS t, k.contype AS kind, pg_get_constraintdef(k.oid) AS says, r.relname AS refers,
            (SELECT string_agg(a.attname, chr(31) ORDER BY u.n) FROM unnest(k.conkey) WITH ORDINALITY u(c, n)
            JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum = u.c) AS names
        FROM pg_constraint k JOIN pg_class c ON c.oid = k.conrelid JOIN pg_namespace n ON n.oid = c.relnamespace
        LEFT JOIN pg_class r ON r.oid = k.confrelid
        WHERE n.nspname = current_schema() AND c.relkind IN ('r', 'p')";

    public function __construct(private PDO $db)
    {
    }

    /** @throws DescriptionError */
    public function read(): Schema
    {
        $columns = $constraints = [];
        foreach ($this->all(self::COLUMNS) as $column) {
            $columns[$column['t']][] = $column;
        }
        foreach ($this->all(self::CONSTRAINTS) as $constraint) {
            $constraints[$constraint['t']][$constraint['kind']][] = $constraint;
        }
        $entities = [];
        foreach ($columns as $table => $of) {
            $constrained = $constraints[$table] ?? [];
            $key = self::names($constrained['p'][0] ?? []);
            if (count($key) === 1) {
                $uniques = array_map(self::names(...), $constrained['u'] ?? []);
                $checks = array_map(fn (array $c) => Condition::plain((string) $c['says']), $constrained['c'] ?? []);
                $entities[] = new Entity((string) $table, $key[0], $this->fields($of, $constrained), $uniques, $checks);
            }
        }

        return PlainField::schema($entities);
    }

    /**
     * @param  list<array<string, mixed>>  $columns
     * @param  array<string, list<array<string, mixed>>>  $constraints  by kind
     * @return list<Field>
     */
    private function fields(array $columns, array $constraints): array
    {
        $refers = [];
        foreach ($constraints['f'] ?? [] as $c) {
            $refers[self::names($c)[0]] = $c['refers'];
        }
        $checks = array_map(fn (array $c) => self::choice((string) $c['says']), $constraints['c'] ?? []);
        $fields = [];
        foreach ($columns as $c) {
            $default = (string) $c['dflt'];
            $fields[] = PlainField::of(
                $c['name'],
                $c['type'],
                in_array($c['required'], [true, 't', '1', 1], true),
                self::isAssigned($c),
                $refers[$c['name']] ?? null,
                $default === '' ? null : trim((string) preg_replace('/::.*$/', '', $default), "'"),
                $checks,
            );
        }

        return $fields;
    }

    /** @param  array<string, mixed>  $column */
    private static function isAssigned(array $column): bool
    {
        return $column['identity'] !== '' || $column['generated'] !== ''
            || preg_match('/^nextval\(|now\(\)|current_timestamp/i', (string) $column['dflt']) === 1;
    }

    /** "((col)::text = ANY ((ARRAY['a'::text, 'b'::text])::text[]))" is how an IN list is kept. */
    private static function choice(string $says): string
    {
        return preg_match('/\(*"?(\w+)"?\)*(?:::[a-z ]+)?\s*=\s*ANY\s*\(+ARRAY\[(.*?)\]/s', $says, $m) === 1
            ? "$m[1] in (".preg_replace('/::[a-z ]+/', '', $m[2]).')' : '';
    }

    /**
     * @param  array<string, mixed>  $constraint
     * @return list<string>
     */
    private static function names(array $constraint): array
    {
        $names = (string) ($constraint['names'] ?? '');

        return $names === '' ? [] : explode("\x1F", $names);
    }

    /** @return list<array<string, mixed>> */
    private function all(string $sql): array
    {
        $found = $this->db->query($sql);

        return $found === false ? [] : $found->fetchAll(PDO::FETCH_ASSOC);
    }
}
