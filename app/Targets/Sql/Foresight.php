<?php

namespace App\Targets\Sql;

use App\Targets\TargetLink;
use Baggage\Core\Loading\Provisional;
use Baggage\Core\Loading\Said;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Types\DateType;
use Baggage\Core\Targets\Types\DecimalType;
use Baggage\Core\Targets\Types\IntegerType;
use PDO;
use PDOException;

/** What a MariaDB target would say to records of one entity, as far as reading tells: it is asked, and nothing is written. */
final class Foresight
{
    private const AT_ONCE = 500;

    /** Whether the table held no record when it was first asked: nobody has any value there. */
    private ?bool $isEmpty = null;

    /** @var array<string, array{string, string}>|null field → character set and collation, of those that hold text */
    private ?array $collations = null;

    /** @var list<string> CHECKs that could not be tried */
    private array $untried = [];

    public function __construct(private readonly TargetLink $link, private readonly Entity $entity)
    {
    }

    /**
     * Records of the target that have the values of a unique key.
     *
     * @param  list<string>  $fields
     * @param  array<int, list<string>>  $wanted  values by row
     * @return list<array{string, list<string|null>}> target key and the values as they stand there
     *
     * @throws TargetUnavailable
     */
    public function holders(array $fields, array $wanted): array
    {
        // A key the run would give is nobody's there.
        $wanted = array_filter($wanted, fn (array $values) => ! array_filter($values, Provisional::is(...)));
        if ($wanted === [] || $this->isEmpty()) {
            return [];
        }
        $list = implode(',', array_map(SqlTarget::name(...), $fields));
        $found = [];
        foreach (array_chunk($wanted, self::AT_ONCE) as $some) {
            $tuples = array_map(fn (array $values) => '('.implode(',', array_map($this->quote(...), $values)).')', $some);
            $records = $this->asked(
                'SELECT '.SqlTarget::name($this->entity->key).",$list FROM ".SqlTarget::name($this->entity->name)
                    ." WHERE ($list) IN (".implode(',', $tuples).')',
            );
            foreach ($records as $record) {
                $found[] = [(string) $record[0], array_slice($record, 1)];
            }
        }

        return $found;
    }

    /** Whether the target takes two values of a field for the same. */
    public function isSame(string $field, string $a, string $b): bool
    {
        if ($a === $b) {
            return true;
        }
        [$set, $collation] = $this->collations()[$field] ?? [null, null];

        return $set !== null && (bool) ($this->asked(
            "SELECT CONVERT({$this->quote($a)} USING $set) COLLATE $collation = CONVERT({$this->quote($b)} USING $set)",
        )[0][0] ?? false);
    }

    /**
     * @param  array<int, array<string, string|null>>  $records  by row
     * @return array<int, Said> those that refer to a record that is not there
     *
     * @throws TargetUnavailable
     */
    public function withoutParents(array $records): array
    {
        $refused = [];
        foreach ($this->entity->references() as $field => $reference) {
            $keys = array_filter(array_map(fn (array $r) => $r[$field] ?? null, $records), fn (?string $k) => $k !== null);
            $keys = array_filter($keys, fn (string $k) => ! Provisional::is($k));
            $there = [];
            foreach (array_chunk(array_values(array_unique($keys)), self::AT_ONCE * 4) as $some) {
                $there += $this->there((string) $reference->refers, $some);
            }
            foreach (array_filter($keys, fn (string $k) => ! isset($there[$k])) as $row => $key) {
                $parent = str_replace('_', ' ', (string) $reference->refers);
                $refused[$row] ??= new Said(Said::NO_PARENT, [$field], "The target has no such $parent");
            }
        }

        return $refused;
    }

    /**
     * @param  array<int, array<string, string|null>>  $records  by row
     * @return array<int, Said> those a CHECK does not hold for
     *
     * @throws TargetUnavailable
     */
    public function failingChecks(array $records): array
    {
        $checks = new Checks($this->link->pdo(), $this->entity);
        $refused = [];
        foreach (array_diff_key($checks->clauses(), array_flip($this->untried)) as $name => $clause) {
            foreach (array_chunk($records, self::AT_ONCE, true) as $some) {
                try {
                    foreach ($this->failing((string) $clause, $some) as $row) {
                        $refused[$row] ??= $checks->said((string) $name, null);
                    }
                } catch (PDOException $e) {
                    if (TargetLink::isLost($e)) {
                        throw TargetUnavailable::because($this->link->explain($e), $e);
                    }
                    $this->untried[] = (string) $name;
                    break;
                }
            }
        }

        return $refused;
    }

    /** @return list<string> what of the table only writing shows, in words */
    public function unforeseen(): array
    {
        $table = $this->quote($this->entity->name);
        $found = $this->asked(
            "SELECT trigger_name, LOWER(action_timing), LOWER(event_manipulation) FROM information_schema.triggers
            WHERE event_object_schema = DATABASE() AND event_object_table = $table AND event_manipulation <> 'DELETE' ORDER BY 1",
        );
        $of = array_map(fn (array $t) => "the trigger \"$t[0]\" of {$this->entity->name}, $t[1] $t[2]", $found);
        $checks = array_map(fn (string $name) => "the check \"$name\" of {$this->entity->name}", $this->untried);

        return [...$of, ...$checks];
    }

    /** Whether the account may see the triggers of the target. */
    public function seesTriggers(): bool
    {
        $grants = implode(' ', array_column($this->asked('SHOW GRANTS'), 0));

        return preg_match('/\bTRIGGER\b|ALL PRIVILEGES/', $grants) === 1;
    }

    /**
     * @param  non-empty-array<int, array<string, string|null>>  $records
     * @return list<int> rows
     */
    private function failing(string $clause, array $records): array
    {
        $lines = [];
        foreach ($records as $row => $record) {
            $line = "SELECT $row AS baggage_row";
            foreach ($this->entity->fields as $name => $field) {
                $line .= ','.$this->typed($field, $record[$name] ?? null).' AS '.SqlTarget::name($name);
            }
            $lines[] = $line;
        }
        $found = $this->link->pdo()->query('SELECT baggage_row FROM ('.implode(' UNION ALL ', $lines).") r WHERE NOT ($clause)");

        return $found === false ? [] : array_map(intval(...), $found->fetchAll(PDO::FETCH_COLUMN));
    }

    private function typed(Field $field, ?string $value): string
    {
        if ($value === null || Provisional::is($value)) {
            return 'NULL';
        }
        $text = $this->quote($value);
        [$set, $collation] = $this->collations()[$field->name] ?? [null, null];

        return match (true) {
            $field->type instanceof IntegerType => "CAST($text AS DECIMAL(65,0))",
            $field->type instanceof DecimalType => "CAST($text AS DECIMAL({$field->type->precision},{$field->type->scale}))",
            $field->type instanceof DateType => "CAST($text AS ".(strlen($value) > 10 ? 'DATETIME(6)' : 'DATE').')',
            $set !== null => "CONVERT($text USING $set) COLLATE $collation",
            default => $text,
        };
    }

    /** @return array<string, array{string, string}> */
    private function collations(): array
    {
        if ($this->collations === null) {
            $this->collations = [];
            $columns = $this->asked(
                'SELECT column_name, character_set_name, collation_name FROM information_schema.columns
                WHERE table_schema = DATABASE() AND collation_name IS NOT NULL AND table_name = '.$this->quote($this->entity->name),
            );
            foreach ($columns as [$name, $set, $collation]) {
                $this->collations[(string) $name] = [(string) $set, (string) $collation];
            }
        }

        return $this->collations;
    }

    /**
     * @param  list<string>  $keys
     * @return array<array-key, true>
     */
    private function there(string $entity, array $keys): array
    {
        $key = $this->asked(
            "SELECT column_name FROM information_schema.statistics WHERE table_schema = DATABASE() AND index_name = 'PRIMARY'
            AND table_name = ".$this->quote($entity).' ORDER BY seq_in_index LIMIT 1',
        )[0][0] ?? 'id';
        $name = SqlTarget::name((string) $key);
        $found = $this->asked(
            "SELECT $name FROM ".SqlTarget::name($entity)." WHERE $name IN (".implode(',', array_map($this->quote(...), $keys)).')',
        );

        return array_fill_keys(array_map(strval(...), array_column($found, 0)), true);
    }

    private function isEmpty(): bool
    {
        return $this->isEmpty ??= $this->asked('SELECT 1 FROM '.SqlTarget::name($this->entity->name).' LIMIT 1') === [];
    }

    private function quote(string $value): string
    {
        return $this->link->pdo()->quote($value);
    }

    /**
     * @return list<list<string|null>>
     *
     * @throws TargetUnavailable
     */
    private function asked(string $sql): array
    {
        try {
            $found = $this->link->pdo()->query($sql);

            return $found === false ? [] : $found->fetchAll(PDO::FETCH_NUM);
        } catch (PDOException $e) {
            if (TargetLink::isLost($e)) {
                $this->link->drop();
            }
            throw TargetUnavailable::because($this->link->explain($e), $e);
        }
    }
}
