<?php

namespace Baggage\Core\Profiling;

use Baggage\Core\Reading\Columns;

/** Whether the values of a column may be keys of another table, before they are compared. */
final class ReferenceGuess
{
    /** Endings of column names that say nothing of what they name. */
    private const ENDINGS = ['no', 'nr', 'id', 'key', 'ref', 'code', 'num', 'number'];

    /**
     * @param  list<array<string, mixed>>  $facts  of the columns, as ColumnFacts::toArray()
     * @param  list<array<string, mixed>>  $parent  of the key's columns
     * @param  list<string>  $names  tidy names of the columns
     * @param  list<string>  $parentNames
     */
    public static function possible(
        array $facts,
        array $parent,
        array $names,
        array $parentNames,
        string $parentTable,
    ): bool {
        foreach ($facts as $i => $f) {
            $p = $parent[$i] ?? null;
            if (
                $p === null
                || $f === []
                || $f['filled'] === 0
                || in_array($f['type']['type'], ['date', 'decimal', 'empty', 'yes_no'], true)
                || $f['longest'] > 60
            ) {
                return false;
            }
            if ($f['shortest'] > $p['longest'] || $f['longest'] < $p['shortest']) {
                return false;
            }
        }
        if (count($facts) > 1) {
            return true;
        }
        $alike = self::alike($names[0], $parentNames[0], $parentTable);
        $plainNumbers = $facts[0]['type']['type'] === 'whole' && $facts[0]['longest'] < 6;

        // Small numbers are found in any running number, so they need a name that says so.
        return $alike || (! $plainNumbers && $facts[0]['distinct'] > 3 && $facts[0]['type']['type'] !== 'text');
    }

    /** Whether one name speaks of the other, or of the table the key belongs to. */
    public static function alike(string $name, string $parentName, string $parentTable): bool
    {
        $words = self::words($name);
        $about = [...self::words($parentName), ...self::words($parentTable)];
        foreach ($words as $word) {
            foreach ($about as $other) {
                if (
                    $word === $other
                    || (strlen($word) > 2 && (str_starts_with($other, $word) || str_starts_with($word, $other)))
                ) {
                    return true;
                }
            }
        }

        return $name === $parentName;
    }

    /** @return list<string> */
    private static function words(string $name): array
    {
        return array_values(
            array_diff(preg_split('/[^a-z]+/', strtolower($name), -1, PREG_SPLIT_NO_EMPTY) ?: [], self::ENDINGS),
        );
    }

    /**
     * Columns of a table that have the names of a composite key's.
     *
     * @param  list<int>  $key
     * @return list<list<int>>
     */
    public static function sameNames(Columns $parent, array $key, Columns $columns): array
    {
        $positions = [];
        foreach ($key as $at) {
            $column = $columns->find($parent->all[$at]->name);
            if ($column === null) {
                return [];
            }
            $positions[] = $column->position;
        }

        return [$positions];
    }

    /**
     * Of several keys one column may refer to, the one whose name it bears, otherwise the one that misses fewest rows.
     *
     * @param  list<array<string, mixed>>  $found  with extract_id, columns, parent_extract_id, values_found, values_total
     * @return list<array<string, mixed>>
     */
    public static function best(array $found): array
    {
        $best = [];
        foreach ($found as $reference) {
            // Two keys that are each found in the other: the table with fewer of the values hangs on the other.
            foreach ($found as $other) {
                if (
                    $other['extract_id'] === $reference['parent_extract_id']
                    && $other['parent_extract_id'] === $reference['extract_id']
                    && $other['columns'] === $reference['parent_columns']
                    && $other['parent_columns'] === $reference['columns']
                    && [
                        $reference['values_found'] / $reference['values_total'],
                        -$reference['values_total'],
                        $reference['extract_id'],
                    ] < [$other['values_found'] / $other['values_total'], -$other['values_total'], $other['extract_id']]
                ) {
                    continue 2;
                }
            }
            // A row of a table whose own key hangs on the same parent: the nearer parent that misses fewer is meant.
            foreach ($found as $other) {
                if (
                    $other['extract_id'] === $reference['extract_id']
                    && $other['columns'] === $reference['columns']
                    && $other['parent_extract_id'] !== $reference['parent_extract_id']
                    && $other['values_found'] > $reference['values_found']
                    && self::hangs($found, $reference, $other)
                ) {
                    continue 2;
                }
            }
            $best[
                "{$reference['extract_id']} {$reference['columns']} {$reference['parent_extract_id']}"
            ] ??= $reference;
        }

        return array_values($best);
    }

    /**
     * @param  list<array<string, mixed>>  $found
     * @param  array<string, mixed>  $reference
     * @param  array<string, mixed>  $other
     */
    private static function hangs(array $found, array $reference, array $other): bool
    {
        foreach ($found as $r) {
            if (
                $r['extract_id'] === $reference['parent_extract_id']
                && $r['columns'] === $reference['parent_columns']
                && $r['parent_extract_id'] === $other['parent_extract_id']
                && $r['parent_columns'] === $other['parent_columns']
            ) {
                return true;
            }
        }

        return false;
    }
}
