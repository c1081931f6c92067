<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Reading\Column;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;

/** Suggests rules for fields that have none, from the words of the names, the kinds of the values and what is known of them. */
final class Suggester
{
    private const LEAST = 0.45;

    /** Of a pair whose values speak for it and whose names say nothing. */
    private const BY_VALUES = 0.5;

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
                $given = $field->refers !== null || self::kind($field) === 'choice' ? $known($field, $column) : null;
                [$fit, $expression, $why] = self::fit($field, $column, $f, $given);
                if ($expression === null || ($words === 0.0 && $given === null)) {
                    continue;
                }
                $isUsed = in_array($column->position, $used, true);
                $weight = max(0.7 * $words + 0.3 * $fit, $given === null ? 0 : self::BY_VALUES) - ($isUsed ? 0.15 : 0);
                if ($weight >= self::LEAST) {
                    $why = $same === [] ? $why : 'same word "'.implode('", "', $same)."\"; $why";
                    $pairs[] = new Suggestion($name, $column->header, $expression, $why, $weight);
                }
            }
        }
        $best = self::best($pairs);

        return $best + self::onlyPairs($entity, array_diff($without, array_keys($best)), $columns, $facts, $used, $best);
    }

    private static function kind(Field $field): string
    {
        return (string) $field->type->toArray()['kind'];
    }

    /**
     * Where names say nothing: the one field left of a kind and the one column left whose values are of it.
     *
     * @param  array<string>  $without
     * @param  list<array<string, mixed>>  $facts
     * @param  list<int>  $used
     * @param  array<string, Suggestion>  $best
     * @return array<string, Suggestion> by field
     */
    private static function onlyPairs(Entity $entity, array $without, Columns $columns, array $facts, array $used, array $best): array
    {
        $taken = array_map(fn (Suggestion $s) => $s->column, $best);
        $free = array_filter(
            $columns->all,
            fn (Column $c) => ! in_array($c->position, $used, true) && ! in_array($c->header, $taken, true),
        );
        $found = [];
        foreach (['date' => 'date', 'datetime' => 'date', 'boolean' => 'yes_no', 'decimal' => 'decimal'] as $kind => $type) {
            $fields = array_filter($without, fn ($n) => isset($entity->fields[$n]) && self::kind($entity->fields[$n]) === $kind);
            $of = array_filter($free, fn (Column $c) => ($facts[$c->position]['type']['type'] ?? null) === $type);
            [$name, $column] = [reset($fields), reset($of)];
            if (count($fields) !== 1 || count($of) !== 1 || $name === false || $column === false) {
                continue;
            }
            [, $expression, $why] = self::fit($entity->fields[$name], $column, $facts[$column->position], null);
            if ($expression !== null) {
                $found[$name] = new Suggestion($name, $column->header, $expression, "the only pair of its kind; $why", self::LEAST);
            }
        }

        return $found;
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
                    Words::of(...),
                    preg_split('/[^a-z0-9]+/', strtolower($name), -1, PREG_SPLIT_NO_EMPTY) ?: [],
                ),
            ),
        );
    }

    /**
     * @param  array<string, mixed>  $f
     * @param  string|null  $rule  where something known gives one
     * @return array{float, string|null, string} how well it fits, the rule, and why in words
     */
    private static function fit(Field $field, Column $column, array $f, ?string $rule): array
    {
        $kind = self::kind($field);
        $type = $f['type']['type'];
        $c = $column->name;
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
