<?php

namespace Baggage\Core\Targets;

use Brick\Math\BigInteger;

/** Understands the column types and CHECK constraints that a MariaDB or MySQL schema states. */
final class ColumnReading
{
    private const BITS = ['tinyint' => 8, 'smallint' => 16, 'mediumint' => 24, 'int' => 32, 'bigint' => 64];

    /**
     * @param  string  $columnType  as information_schema.columns.column_type has it, e.g. "decimal(8,2) unsigned"
     * @param  int|null  $length  characters a text column holds
     * @param  list<string>  $checks  CHECK clauses of the table
     */
    public static function type(string $name, string $columnType, ?int $length, array $checks): FieldType
    {
        // Numbers that are listed stay numbers: "01" is 1 to the target. See Entity::allowed().
        $isText = preg_match('/char|text|enum/i', $columnType) === 1;
        $allowed = $isText ? self::allowedValues($name, $checks) : null;
        if ($allowed !== null && $allowed !== []) {
            return new Types\ChoiceType($allowed);
        }
        if (preg_match('/^(enum|set)\((.*)\)$/is', $columnType, $m) === 1) {
            return strtolower($m[1]) === 'set' ? new Types\SetType(self::quoted($m[2])) : new Types\ChoiceType(self::quoted($m[2]));
        }
        $columnType = strtolower($columnType);
        if ($columnType === 'tinyint(1)') {
            return new Types\BooleanType;
        }
        if (preg_match('/^(decimal|numeric)\((\d+),(\d+)\)/', $columnType, $m) === 1) {
            return new Types\DecimalType((int) $m[2], (int) $m[3]);
        }
        if (preg_match('/^(tinyint|smallint|mediumint|int|bigint)/', $columnType, $m) === 1) {
            return self::integer(self::BITS[$m[1]], str_contains($columnType, 'unsigned'));
        }
        if (preg_match('/^(float|double)/', $columnType) === 1) {
            return new Types\DecimalType(30, 12);
        }
        if (preg_match('/^(datetime|timestamp)/', $columnType) === 1) {
            return new Types\DateType(true);
        }
        if ($columnType === 'date') {
            return new Types\DateType;
        }

        return new Types\TextType($length ?? 255);
    }

    private static function integer(int $bits, bool $unsigned): Types\IntegerType
    {
        $two = BigInteger::of(2);

        return $unsigned
            ? new Types\IntegerType('0', (string) $two->power($bits)->minus(1))
            : new Types\IntegerType((string) $two->power($bits - 1)->negated(), (string) $two->power($bits - 1)->minus(1));
    }

    /**
     * @param  list<string>  $checks
     * @return list<string>|null the values of a CHECK (column IN (…)) clause
     */
    private static function allowedValues(string $name, array $checks): ?array
    {
        foreach ($checks as $check) {
            if (
                preg_match(
                    '/^\(?`?'.preg_quote($name, '/')
                        .'`?\s+in\s*\(((?:\'(?:[^\'\\\\]|\'\'|\\\\.)*\'|[^\'()])*)\)\)?$/i',
                    trim($check),
                    $m,
                ) === 1
            ) {
                return self::quoted($m[1]);
            }
        }

        return null;
    }

    /** @return list<string> */
    private static function quoted(string $list): array
    {
        // A quote inside is doubled in column types, and led by a backslash where MariaDB shows a CHECK clause.
        preg_match_all("/'((?:[^'\\\\]|''|\\\\.)*)'/", $list, $m);

        return array_map(fn ($v) => str_replace(["''", "\\'", '\\\\'], ["'", "'", '\\'], $v), $m[1]);
    }
}
