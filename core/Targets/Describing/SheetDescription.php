<?php

namespace Baggage\Core\Targets\Describing;

use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Schema;

/** Entities and fields from a sheet: a row for each field. */
final class SheetDescription
{
    public const HEADERS = [
        'Entity',
        'Field',
        'Type',
        'Length',
        'Required',
        'Unique',
        'References',
        'Allowed values',
        'Default',
        'Note',
    ];

    /**
     * @param  iterable<int, array<string, string>>  $rows  row in the sheet → header → value; only Entity and Field have to be there
     *
     * @throws DescriptionError
     */
    public static function read(iterable $rows): Schema
    {
        $fields = $uniques = $keys = [];
        foreach ($rows as $number => $row) {
            $row = array_map(trim(...), $row) + array_fill_keys(self::HEADERS, '');
            [$entity, $name] = [$row['Entity'], $row['Field']];
            if ($entity === '' && $name === '') {
                continue;
            }
            self::named($number, $row);
            if (isset($fields[$entity][$name])) {
                throw DescriptionError::fieldTwice($number, $entity, $name);
            }
            $unique = strtolower($row['Unique']);
            $isKey = in_array($unique, ['key', 'primary key', 'target key'], true);
            $fields[$entity][$name] = self::field($number, $row, $isKey);
            if ($isKey) {
                $keys[$entity] = $name;
            } elseif (! in_array($unique, ['', 'no', '-', '0'], true)) {
                // "yes" is a unique key by itself; fields with the same other word are one together.
                $group = in_array($unique, ['yes', 'x', '1', 'y'], true) ? "\0$name" : $row['Unique'];
                $uniques[$entity][$group][] = $name;
            }
        }
        $entities = [];
        foreach ($fields as $entity => $of) {
            $entities[] = self::entity((string) $entity, $of, $keys[$entity] ?? null, array_values($uniques[$entity] ?? []));
        }

        return self::whole($entities);
    }

    /** @param  array<string, string>  $row */
    private static function named(int $number, array $row): void
    {
        foreach (['Entity' => 'an entity', 'Field' => 'a field'] as $header => $what) {
            if (preg_match('/^[A-Za-z_][A-Za-z0-9_]{0,63}$/', $row[$header]) !== 1) {
                throw DescriptionError::noName($number, $row[$header], $what);
            }
        }
    }

    /** @param  array<string, string>  $row */
    private static function field(int $number, array $row, bool $isKey): Field
    {
        $type = strtolower($row['Type']);
        $filled = fn (string $header) => $row[$header] === '' ? null : $row[$header];

        return new Field(
            $row['Field'],
            self::type($number, $type, $row['Length'], $row['Allowed values'])->type,
            self::yes($number, 'Required', $row['Required']),
            $isKey && in_array($type, ['', 'whole number', 'integer', 'int', 'assigned'], true),
            $filled('References'),
            $filled('Default'),
            $filled('Note'),
        );
    }

    /**
     * @param  array<string, Field>  $fields  by name
     * @param  list<list<string>>  $uniques
     */
    private static function entity(string $name, array $fields, ?string $key, array $uniques): Entity
    {
        $key ??= isset($fields['id']) ? 'id' : null;
        if ($key === null) {
            // The target gives every record a key, whether the sheet speaks of it or not.
            $key = 'id';
            $number = Field::fromArray(['name' => 'id', 'kind' => 'integer'])->type;
            $fields = ['id' => new Field('id', $number, false, true)] + $fields;
        }

        return new Entity($name, $key, array_values($fields), $uniques);
    }

    /** @param  list<Entity>  $entities */
    private static function whole(array $entities): Schema
    {
        if ($entities === []) {
            throw DescriptionError::noField();
        }
        $schema = new Schema($entities);
        foreach ($schema->entities as $entity) {
            foreach ($entity->references() as $field) {
                if (! isset($schema->entities[(string) $field->refers])) {
                    throw DescriptionError::refersNowhere($entity->name, $field->name, (string) $field->refers);
                }
            }
        }

        return $schema;
    }

    private static function type(int $row, string $type, string $length, string $allowed): Field
    {
        if ($allowed !== '') {
            return Field::fromArray([
                'name' => 'x',
                'kind' => 'choice',
                'values' => array_values(
                    array_filter(
                        array_map(trim(...), explode(str_contains($allowed, ';') ? ';' : ',', $allowed)),
                        fn ($v) => $v !== '',
                    ),
                ),
            ]);
        }
        $numbers = preg_match('/^(\d+)(?:\s*[,.]\s*(\d+))?$/', $length, $m) === 1 ? [(int) $m[1], (int) ($m[2] ?? 0)] : null;
        if ($length !== '' && $numbers === null) {
            throw DescriptionError::noLength($row, $length);
        }

        return Field::fromArray(
            ['name' => 'x']
                + match ($type) {
                    '', 'text', 'string', 'varchar', 'char' => ['kind' => 'text', 'length' => $numbers[0] ?? 255],
                    'long text', 'memo' => ['kind' => 'text', 'length' => $numbers[0] ?? 16_777_215],
                    'whole number', 'integer', 'int', 'assigned' => ['kind' => 'integer'],
                    'decimal', 'number', 'money', 'amount' => [
                        'kind' => 'decimal',
                        'precision' => $numbers[0] ?? 12,
                        'scale' => $numbers[1] ?? 2,
                    ],
                    'date' => ['kind' => 'date'],
                    'date and time', 'datetime', 'timestamp' => ['kind' => 'datetime'],
                    'yes or no', 'boolean', 'bool' => ['kind' => 'boolean'],
                    default => throw DescriptionError::noType($row, $type),
                },
        );
    }

    private static function yes(int $row, string $header, string $value): bool
    {
        return match (strtolower($value)) {
            '', 'no', 'n', '0', '-', 'false' => false,
            'yes', 'y', '1', 'x', 'true', 'required' => true,
            default => throw DescriptionError::noAnswer($row, $header, $value),
        };
    }
}
