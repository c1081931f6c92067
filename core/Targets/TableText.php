<?php

namespace Baggage\Core\Targets;

use Baggage\Core\Targets\Types\BooleanType;
use Baggage\Core\Targets\Types\ChoiceType;
use Baggage\Core\Targets\Types\DateType;
use Baggage\Core\Targets\Types\DecimalType;
use Baggage\Core\Targets\Types\IntegerType;
use Baggage\Core\Targets\Types\TextType;
use Brick\Math\BigInteger;

/** Writes the statements that make tables of described entities, for MariaDB. */
final class TableText
{
    /** Longest text that fits a column with an index beside others. */
    private const LONGEST_VARCHAR = 4_000;

    /**
     * @param  list<Entity>  $entities  those to make
     * @param  Schema  $all  with the entities they refer to
     * @param  string  $prefix  before the names of the tables that are made
     * @return list<string> statements in the order to run them: the tables, then what refers to others
     */
    public static function statements(array $entities, Schema $all, string $prefix = ''): array
    {
        $made = array_map(fn (Entity $e) => $e->name, $entities);
        $table = fn (string $name) => self::name((in_array($name, $made, true) ? $prefix : '').$name);
        $tables = $links = [];
        foreach ($entities as $entity) {
            $lines = [];
            foreach ($entity->fields as $field) {
                $isKey = $field->name === $entity->key;
                $lines[] = self::name($field->name).' '.self::type($field, $all, $isKey)
                    .($field->required || $isKey ? ' NOT NULL' : ' NULL')
                    .($isKey && self::isCounted($field) ? ' AUTO_INCREMENT' : '')
                    .($field->default !== null && ! $isKey ? ' DEFAULT '.self::quote($field->default) : '')
                    .($field->type instanceof ChoiceType
                        ? ' CHECK ('.self::name($field->name).' IN ('
                            .implode(', ', array_map(self::quote(...), $field->type->values)).'))'
                        : '');
            }
            $lines[] = 'PRIMARY KEY ('.self::name($entity->key).')';
            foreach ($entity->uniques as $i => $unique) {
                $lines[] = 'UNIQUE KEY '.self::name('u'.($i + 1).'_'.implode('_', $unique)).' ('
                    .implode(', ', array_map(self::name(...), $unique)).')';
            }
            $tables[] = "CREATE TABLE {$table($entity->name)} (\n    ".implode(",\n    ", $lines)
                ."\n) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4";
            foreach ($entity->references() as $field) {
                $parent = $all->entities[(string) $field->refers] ?? null;
                if ($parent !== null) {
                    $links[] = "ALTER TABLE {$table($entity->name)} ADD CONSTRAINT "
                        .self::name(substr("{$prefix}{$entity->name}_$field->name", 0, 64)).' FOREIGN KEY ('
                        .self::name($field->name).") REFERENCES {$table($parent->name)} (".self::name($parent->key)
                        .')';
                }
            }
        }

        return [...$tables, ...$links];
    }

    private static function type(Field $field, Schema $all, bool $isKey): string
    {
        if ($field->refers !== null && isset($all->entities[$field->refers])) {
            $parent = $all->entities[$field->refers];

            return self::type($parent->fields[$parent->key], $all, true);
        }
        $type = $field->type;

        return match (true) {
            $type instanceof BooleanType => 'TINYINT(1)',
            $type instanceof IntegerType => self::isCounted($field) && $isKey
                ? 'INT UNSIGNED'
                : (BigInteger::of($type->max)->isGreaterThan(2147483647)
                || BigInteger::of($type->min)->isLessThan(-2147483648)
                    ? 'BIGINT'.(BigInteger::of($type->min)->isNegative() ? '' : ' UNSIGNED')
                    : 'INT'),
            $type instanceof DecimalType => "DECIMAL($type->precision,$type->scale)",
            $type instanceof DateType => $type->time ? 'DATETIME' : 'DATE',
            $type instanceof ChoiceType => 'VARCHAR('.max(1, ...array_map(mb_strlen(...), $type->values)).')',
            $type instanceof TextType && $type->length > self::LONGEST_VARCHAR => $type->length > 65_535
                ? 'MEDIUMTEXT'
                : 'TEXT',
            $type instanceof TextType => "VARCHAR($type->length)",
            default => 'VARCHAR(255)',
        };
    }

    /** Whether the target counts the key up by itself. */
    private static function isCounted(Field $field): bool
    {
        return $field->type instanceof IntegerType && $field->assigned;
    }

    private static function name(string $name): string
    {
        return '`'.str_replace('`', '``', $name).'`';
    }

    private static function quote(string $text): string
    {
        return "'".str_replace(['\\', "'"], ['\\\\', "''"], $text)."'";
    }
}
