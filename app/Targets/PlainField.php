<?php

namespace App\Targets;

use Baggage\Core\Targets\ColumnReading;
use Baggage\Core\Targets\Describing\DescriptionError;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Schema;

/** A column of another kind of database, told as a MariaDB column of the same meaning. */
final class PlainField
{
    /** Characters of a text without a stated length. */
    private const LONG = 16_777_215;

    /** @param  list<string>  $checks  CHECK clauses of its table */
    public static function of(
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
        $plain = self::plain($type);
        $default = $plain === 'tinyint(1)' && $default !== null ? self::truth($default) : $default;

        return new Field(
            $name,
            ColumnReading::type($name, $plain, $plain === 'longtext' ? self::LONG : $length, $checks),
            $required && $default === null && ! $assigned,
            $assigned,
            $refers,
            $assigned ? null : $default,
        );
    }

    /**
     * @param  list<Entity>  $entities
     *
     * @throws DescriptionError where there are none
     */
    public static function schema(array $entities): Schema
    {
        return $entities === []
            ? throw DescriptionError::noKeyedTable()
            : new Schema($entities);
    }

    private static function plain(string $type): string
    {
        return match (true) {
            str_starts_with($type, 'timestamp') => 'datetime',
            str_starts_with($type, 'bool') => 'tinyint(1)',
            in_array($type, ['integer', 'serial'], true) => 'int',
            in_array($type, ['double precision', 'real'], true) => 'double',
            in_array($type, ['numeric', 'decimal'], true) => 'decimal(30,10)',
            in_array($type, ['text', ''], true) => 'longtext',
            default => (string) preg_replace('/,\s+/', ',', $type),
        };
    }

    private static function truth(string $default): string
    {
        return in_array(strtolower($default), ['true', '1', 't'], true) ? '1' : '0';
    }
}
