<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Reading\Column;
use Baggage\Core\Targets\Field;

/** How the values of a column become those of a field of another kind: the rule, and how well that goes. */
final class Fit
{
    /**
     * @param  array<string, mixed>  $facts  as ColumnFacts::toArray()
     * @return Evidence|null null where they do not go together
     */
    public static function of(Field $field, Column $column, array $facts): ?Evidence
    {
        $kind = (string) $field->type->toArray()['kind'];
        $type = $facts['type']['type'];
        $c = $column->name;
        if ($field->refers !== null) {
            return new Evidence("parent($c)", 'the field holds a reference', 0.5);
        }

        return match (true) {
            in_array($kind, ['date', 'datetime'], true) && $type === 'date' => self::date($c, $facts['type']),
            $kind === 'decimal' && $type === 'decimal' => new Evidence(
                "decimal($c, '{$facts['type']['detail']}')", 'its values are decimals', 1.0,
            ),
            $kind === 'decimal' && $type === 'whole' => new Evidence("decimal($c)", 'its values are whole numbers', 0.8),
            $kind === 'integer' && in_array($type, ['whole', 'code'], true) && self::areDigits($facts) => new Evidence(
                "trim($c)", 'its values are whole numbers', 0.9,
            ),
            $kind === 'boolean' && $type === 'yes_no' => new Evidence("yes_no($c)", 'its values mean yes or no', 1.0),
            $kind === 'text' => self::text($c, $type, (int) $facts['longest'], (int) ($field->type->toArray()['length'] ?? 0)),
            default => null,
        };
    }

    /** @param  array<string, mixed>  $facts */
    private static function areDigits(array $facts): bool
    {
        return array_filter($facts['examples'], fn ($e) => preg_match('/^\s*[-+]?\d+\s*$/', (string) $e) !== 1) === [];
    }

    /** @param  array<string, mixed>  $type */
    private static function date(string $column, array $type): ?Evidence
    {
        if ($type['detail'] === '' || $type['ambiguous']) {
            return null;
        }
        $formats = explode('|', $type['detail']);

        return new Evidence(
            "date($column, '".implode("', '", $formats)."')",
            'its values are dates in the form '.implode(' or ', $formats),
            1.0,
        );
    }

    private static function text(string $column, string $type, int $longest, int $length): Evidence
    {
        $fits = $longest <= $length;

        return new Evidence(
            $type === 'text' ? "tidy($column)" : "trim($column)",
            "its longest value has $longest characters".($fits ? ' and fits' : ', more than fit'),
            $fits ? 0.9 : 0.5,
        );
    }
}
