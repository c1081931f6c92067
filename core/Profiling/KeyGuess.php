<?php

namespace Baggage\Core\Profiling;

/** Which columns, alone or together, may identify a row. */
final class KeyGuess
{
    private const COLUMNS = 12;

    private const MOST = 6;

    /** Characters of the longest key. */
    public const LONGEST = 60;

    /** One row of so many may have none, or another's. */
    public const SHARE = 20;

    /**
     * @param  list<string>  $names  tidy names
     * @param  list<array<string, mixed>>  $facts  as ColumnFacts::toArray()
     * @param  list<list<string|null>>  $sample  the first rows
     * @return list<list<int>> positions, the likeliest first; each still has to be held against all rows
     */
    public static function of(array $names, array $facts, int $rows, array $sample): array
    {
        $single = $members = [];
        foreach ($facts as $i => $f) {
            $type = $f['type']['type'];
            if ($rows * (self::SHARE - 1) > $f['filled'] * self::SHARE || $type === 'empty' || $f['longest'] > self::LONGEST) {
                continue;
            }
            if ($rows * (self::SHARE - 1) <= $f['distinct'] * self::SHARE && $type !== 'date' && $type !== 'decimal') {
                $single[$i] = self::weight($names[$i], $i, $f);
            }
            // A column that is nearly unique by itself makes any pair unique, which tells nothing.
            if ($f['distinct'] > 1 && $type !== 'decimal' && ! isset($single[$i])) {
                $members[] = $i;
            }
        }
        arsort($single);
        $found = array_map(fn (int $i) => [$i], array_keys($single));
        if (array_filter($found, fn ($k) => $facts[$k[0]]['distinct'] === $rows || $facts[$k[0]]['estimated']) !== []) {
            return array_slice($found, 0, self::MOST);
        }
        usort(
            $members,
            fn ($a, $b) => self::weight($names[$b], $b, $facts[$b]) <=> self::weight($names[$a], $a, $facts[$a]),
        );
        $members = array_slice($members, 0, self::COLUMNS);
        foreach (self::combinations($members) as $columns) {
            $values = array_product(array_map(fn ($i) => $facts[$i]['distinct'], $columns));
            $covered = array_filter($found, fn ($k) => count($k) > 1 && array_diff($k, $columns) === []) !== [];
            if ($values >= $rows && ! $covered && self::isUnique($sample, $columns)) {
                sort($columns);
                $found[] = $columns;
            }
            if (count($found) >= self::MOST) {
                break;
            }
        }

        return array_slice($found, 0, self::MOST);
    }

    /** @param  array<string, mixed>  $f */
    private static function weight(string $name, int $position, array $f): int
    {
        return (preg_match('/(?:^|_)(?:id|no|nr|num|number|key|ref|code|kennung)(?:_|$)/', $name) === 1 ? 40 : 0)
            + max(0, 30 - 3 * $position)
            + (in_array($f['type']['type'], ['code', 'whole'], true) ? 20 : 0)
            + (preg_match('/\d+$/', $name) === 1 ? 5 : 0)
            - ($f['longest'] > 30 ? 20 : 0);
    }

    /**
     * Pairs first, then threes.
     *
     * @param  list<int>  $members
     * @return \Generator<list<int>>
     */
    private static function combinations(array $members): \Generator
    {
        $n = count($members);
        for ($i = 0; $i < $n; $i++) {
            for ($j = $i + 1; $j < $n; $j++) {
                yield [$members[$i], $members[$j]];
            }
        }
        for ($i = 0; $i < $n; $i++) {
            for ($j = $i + 1; $j < $n; $j++) {
                for ($k = $j + 1; $k < $n; $k++) {
                    yield [$members[$i], $members[$j], $members[$k]];
                }
            }
        }
    }

    /**
     * @param  list<list<string|null>>  $sample
     * @param  list<int>  $columns
     */
    private static function isUnique(array $sample, array $columns): bool
    {
        $seen = [];
        $twice = 0;
        foreach ($sample as $cells) {
            $key = implode("\x1F", array_map(fn ($i) => trim((string) ($cells[$i] ?? '')), $columns));
            $twice += isset($seen[$key]) ? 1 : 0;
            $seen[$key] = true;
        }

        // One row of a hundred may be a real duplicate.
        return $twice * 100 <= count($sample);
    }
}
