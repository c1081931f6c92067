<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Reading\Column;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;

/** Suggests rules for fields that have none, from the words of the names, the kinds of the values and what is known of them. */
final class Suggester
{
    /** Abbreviations in column names and what they stand for. common practice, no source */
    private const WORDS = [
        'dt' => 'date',
        'dat' => 'date',
        'nm' => 'name',
        'nam' => 'name',
        'no' => 'number',
        'nr' => 'number',
        'num' => 'number',
        'tel' => 'phone',
        'telephone' => 'phone',
        'mob' => 'phone',
        'addr' => 'address',
        'strt' => 'street',
        'str' => 'street',
        'zip' => 'postcode',
        'plz' => 'postcode',
        'ctry' => 'country',
        'qty' => 'quantity',
        'amt' => 'amount',
        'tot' => 'total',
        'amount' => 'total',
        'desc' => 'description',
        'txt' => 'text',
        'typ' => 'type',
        'cd' => 'code',
        'mail' => 'email',
        'reg' => 'registration',
        'loa' => 'length',
        'len' => 'length',
        'cust' => 'party',
        'customer' => 'party',
        'from' => 'starts',
        'start' => 'starts',
        'begin' => 'starts',
        'to' => 'ends',
        'end' => 'ends',
        'until' => 'ends',
        'inv' => 'invoice',
        'agr' => 'agreement',
    ];

    private const LEAST = 0.45;

    /**
     * @param  list<string>  $without  fields that have no rule
     * @param  list<array<string, mixed>>  $facts  by column, as ColumnFacts::toArray()
     * @param  list<int>  $used  columns some rule reads already: they are suggested last
     * @param  \Closure(Field, Column): ?string  $known  a rule for a reference or a list of values, where something known gives one
     * @return array<string, Suggestion> by field
     */
    public static function for(
        Entity $entity,
        array $without,
        Columns $columns,
        array $facts,
        array $used,
        \Closure $known,
    ): array {
        $pairs = [];
        foreach ($without as $name) {
            $field = $entity->fields[$name] ?? null;
            if ($field === null) {
                continue;
            }
            foreach ($columns->all as $column) {
                $f = $facts[$column->position] ?? null;
                if ($f === null || $f['type']['type'] === 'empty') {
                    continue;
                }
                [$words, $same] = self::words($name, $column->name, $entity->name);
                [$fit, $expression, $why] = self::fit($field, $column, $f, $known);
                if ($expression === null || $words === 0.0) {
                    continue;
                }
                $weight = 0.7 * $words + 0.3 * $fit - (in_array($column->position, $used, true) ? 0.15 : 0);
                if ($weight >= self::LEAST) {
                    $why = 'same word "'.implode('", "', $same)."\"; $why";
                    $pairs[] = new Suggestion($name, $column->header, $expression, $why, $weight);
                }
            }
        }

        return self::best($pairs);
    }

    /**
     * @param  list<Suggestion>  $pairs
     * @return array<string, Suggestion> one column for one field, the best pair first
     */
    private static function best(array $pairs): array
    {
        usort($pairs, fn (Suggestion $a, Suggestion $b) => $b->weight <=> $a->weight);
        $chosen = $taken = [];
        foreach ($pairs as $pair) {
            if (! isset($chosen[$pair->field]) && ! isset($taken[$pair->column])) {
                $chosen[$pair->field] = $pair;
                $taken[$pair->column] = true;
            }
        }

        return $chosen;
    }

    /** @return array{float, list<string>} how much of the names agrees, and the words that do */
    private static function words(string $field, string $column, string $entity): array
    {
        $a = self::split($field);
        $b = self::split($column);
        $same = array_values(array_intersect($a, $b));
        if ($same === []) {
            return [0.0, []];
        }
        // A column named after its own table says no more than without: craft_name is name.
        $rest = array_diff($b, $same, self::split($entity));

        return [count($same) / (count($same) + 0.5 * count(array_diff($a, $same)) + 0.25 * count($rest)), $same];
    }

    /** @return list<string> */
    private static function split(string $name): array
    {
        return array_values(
            array_unique(
                array_map(
                    fn ($w) => self::WORDS[$w] ?? $w,
                    preg_split('/[^a-z0-9]+/', strtolower($name), -1, PREG_SPLIT_NO_EMPTY) ?: [],
                ),
            ),
        );
    }

    /**
     * @param  array<string, mixed>  $f
     * @param  \Closure(Field, Column): ?string  $known
     * @return array{float, string|null, string} how well it fits, the rule, and why in words
     */
    private static function fit(Field $field, Column $column, array $f, \Closure $known): array
    {
        $kind = $field->type->toArray()['kind'];
        $type = $f['type']['type'];
        $c = $column->name;
        $rule = $field->refers !== null || $kind === 'choice' ? $known($field, $column) : null;
        if ($rule !== null) {
            $why = $field->refers !== null
                ? 'its values name rows of the parent'
                : 'a code crosswalk or the target knows its values';

            return [1.0, $rule, $why];
        }
        if ($field->refers !== null) {
            return [0.5, "parent($c)", 'the field holds a reference'];
        }

        return match (true) {
            in_array($kind, ['date', 'datetime'], true) && $type === 'date' => self::date($c, $f['type']),
            $kind === 'decimal' && $type === 'decimal' => [
                1.0,
                "decimal($c, '{$f['type']['detail']}')",
                'its values are decimals',
            ],
            $kind === 'decimal' && $type === 'whole' => [0.8, "decimal($c)", 'its values are whole numbers'],
            $kind === 'integer' && in_array($type, ['whole', 'code'], true) => [
                0.9,
                "trim($c)",
                'its values are whole numbers',
            ],
            $kind === 'boolean' && $type === 'yes_no' => [1.0, "yes_no($c)", 'its values mean yes or no'],
            $kind === 'text' => self::text($c, $type, $f['longest'], $field->type->toArray()['length'] ?? 0),
            default => [0.0, null, ''],
        };
    }

    /**
     * @param  array<string, mixed>  $type
     * @return array{float, string|null, string}
     */
    private static function date(string $column, array $type): array
    {
        if ($type['detail'] === '' || $type['ambiguous']) {
            return [0.0, null, ''];
        }
        $formats = explode('|', $type['detail']);

        return [
            1.0,
            "date($column, '".implode("', '", $formats)."')",
            'its values are dates in the form '.implode(' or ', $formats),
        ];
    }

    /** @return array{float, string, string} */
    private static function text(string $column, string $type, int $longest, int $length): array
    {
        $fits = $longest <= $length;

        return [
            $fits ? 0.9 : 0.6,
            $type === 'text' ? "tidy($column)" : "trim($column)",
            "its longest value has $longest characters".($fits ? ' and fits' : ', more than fit'),
        ];
    }
}
