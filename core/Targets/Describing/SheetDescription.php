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
            if ($row['Entity'] === '' && $row['Field'] === '') {
                continue;
            }
            foreach (['Entity', 'Field'] as $what) {
                if (preg_match('/^[A-Za-z_][A-Za-z0-9_]{0,63}$/', $row[$what]) !== 1) {
                    throw new DescriptionError(
                        "Row $number: \"$row[$what]\" cannot be the name of "
                            .($what === 'Entity' ? 'an entity' : 'a field').'; letters, digits and _ can.',
                    );
                }
            }
            if (isset($fields[$row['Entity']][$row['Field']])) {
                throw new DescriptionError("Row $number: $row[Entity] has the field $row[Field] already.");
            }
            $type = strtolower($row['Type']);
            $isKey = in_array(strtolower($row['Unique']), ['key', 'primary key', 'target key'], true);
            $fields[$row['Entity']][$row['Field']] = new Field(
                $row['Field'],
                self::type($number, $type, $row['Length'], $row['Allowed values'])->type,
                self::yes($number, 'Required', $row['Required']),
                $isKey && in_array($type, ['', 'whole number', 'integer', 'int', 'assigned'], true),
                $row['References'] === '' ? null : $row['References'],
                $row['Default'] === '' ? null : $row['Default'],
                $row['Note'] === '' ? null : $row['Note'],
            );
            if ($isKey) {
                $keys[$row['Entity']] = $row['Field'];
            } elseif ($row['Unique'] !== '' && ! in_array(strtolower($row['Unique']), ['no', '-', '0'], true)) {
                // "yes" is a unique key by itself; fields with the same other word are one together.
                $group = in_array(strtolower($row['Unique']), ['yes', 'x', '1', 'y'], true)
                    ? "\0$row[Field]"
                    : $row['Unique'];
                $uniques[$row['Entity']][$group][] = $row['Field'];
            }
        }
        $entities = [];
        foreach ($fields as $entity => $of) {
            $key = $keys[$entity] ?? (isset($of['id']) ? 'id' : null);
            if ($key === null) {
                // The target gives every record a key, whether the sheet speaks of it or not.
                $of = [
                    'id' => new Field(
                        'id',
                        Field::fromArray(['name' => 'id', 'kind' => 'integer'])->type,
                        false,
                        true,
                    ),
                ] + $of;
                $key = 'id';
            }
            $entities[] = new Entity((string) $entity, $key, array_values($of), array_values($uniques[$entity] ?? []));
        }
        if ($entities === []) {
            throw new DescriptionError('The sheet describes no field.');
        }
        $schema = new Schema($entities);
        foreach ($schema->entities as $entity) {
            foreach ($entity->references() as $field) {
                if (! isset($schema->entities[(string) $field->refers])) {
                    throw new DescriptionError(
                        "$entity->name.$field->name refers to \"$field->refers\", and the sheet has no such entity.",
                    );
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
            throw new DescriptionError("Row $row: a length is a number, or two as in \"9,2\", not \"$length\".");
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
                    default => throw new DescriptionError(
                        "Row $row: \"$type\" is no type. Known are text, long text, whole number, decimal, date, "
                            .'date and time, yes or no; a list of values stands under Allowed values.',
                    ),
                },
        );
    }

    private static function yes(int $row, string $header, string $value): bool
    {
        return match (strtolower($value)) {
            '', 'no', 'n', '0', '-', 'false' => false,
            'yes', 'y', '1', 'x', 'true', 'required' => true,
            default => throw new DescriptionError("Row $row: $header is yes or no, not \"$value\"."),
        };
    }
}
