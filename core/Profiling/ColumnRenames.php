<?php

namespace Baggage\Core\Profiling;

/**
 * Finds columns that came back under another header: in rows that are otherwise the same, the one under the new header says what the one
 * under the old header said.
 */
final class ColumnRenames
{
    /** Rows of either take that are held against each other. */
    public const SAMPLE = 5_000;

    /** Share of the rows in which both say the same. */
    private const ALIKE = 0.8;

    /**
     * @param  list<list<string|null>>  $old  rows of the take before
     * @param  list<list<string|null>>  $new  rows of this take
     * @param  array<int, int>  $common  new position → old position of the columns both have
     * @param  list<int>  $gone  old positions of columns the new take does not have
     * @param  list<int>  $added  new positions of columns the old take did not have
     * @return array<int, int>|null old position → new position; null when no row is otherwise the same
     */
    public static function of(array $old, array $new, array $common, array $gone, array $added): ?array
    {
        $pairs = self::aligned($old, $new, $common);
        if ($pairs === []) {
            return null;
        }
        $scores = [];
        foreach ($gone as $o) {
            foreach ($added as $n) {
                $told = $same = 0;
                foreach ($pairs as [$was, $is]) {
                    $a = trim((string) ($was[$o] ?? ''));
                    $b = trim((string) ($is[$n] ?? ''));
                    if ($a !== '' || $b !== '') {
                        $told++;
                        $same += $a === $b ? 1 : 0;
                    }
                }
                if ($told > 0 && $same >= self::ALIKE * $told) {
                    $scores[] = [$same / $told, -abs($o - $n), $o, $n];
                }
            }
        }
        rsort($scores);
        $renamed = [];
        foreach ($scores as [, , $o, $n]) {
            if (! isset($renamed[$o]) && ! in_array($n, $renamed, true)) {
                $renamed[$o] = $n;
            }
        }

        return $renamed;
    }

    /**
     * Where no row stayed as it was: by the extremes and number of the columns' values.
     *
     * @param  list<array<string, mixed>>  $old  as ColumnFacts::toArray()
     * @param  list<array<string, mixed>>  $new
     * @param  list<int>  $gone
     * @param  list<int>  $added
     * @return array<int, int> old position → new position
     */
    public static function byFigures(array $old, array $new, array $gone, array $added): array
    {
        $found = [];
        foreach ($gone as $o) {
            foreach ($added as $n) {
                $same = array_filter(
                    ['distinct', 'smallest', 'largest', 'longest'],
                    fn ($what) => ($old[$o][$what] ?? null) === ($new[$n][$what] ?? null),
                );
                if (count($same) >= 3 && ! in_array($n, $found, true)) {
                    $found[$o] = $n;
                    break;
                }
            }
        }

        return $found;
    }

    /**
     * @param  list<string>  $old  headers of the take before
     * @param  list<string>  $new  headers of this take
     * @param  array<string, string>  $renamed  old header → new header
     * @return array<int, int> new position → old position of the columns both have
     */
    public static function common(array $old, array $new, array $renamed = []): array
    {
        $at = array_flip($old);
        $was = array_flip($renamed);
        $common = [];
        foreach ($new as $n => $header) {
            $o = $at[$header] ?? ($at[$was[$header] ?? ''] ?? null);
            if ($o !== null) {
                $common[$n] = $o;
            }
        }

        return $common;
    }

    /**
     * @param  list<list<string|null>>  $old
     * @param  list<list<string|null>>  $new
     * @param  array<int, int>  $common
     * @return list<array{list<string|null>, list<string|null>}> rows that say the same in the columns both have
     */
    private static function aligned(array $old, array $new, array $common): array
    {
        $known = $pairs = [];
        if ($common === []) {
            foreach (array_intersect_key($old, $new) as $i => $cells) {
                $pairs[] = [$cells, $new[$i]];
            }

            return $pairs;
        }
        foreach ($old as $i => $cells) {
            $text = self::said($cells, $common);
            // Two rows that are the same cannot be told apart.
            $known[$text] = isset($known[$text]) ? -1 : $i;
        }
        foreach ($new as $cells) {
            $text = self::said($cells, array_keys($common));
            if (($known[$text] ?? -1) >= 0) {
                $pairs[] = [$old[$known[$text]], $cells];
                $known[$text] = -1;
            }
        }

        return $pairs;
    }

    /**
     * @param  list<string|null>  $cells
     * @param  array<int, int>  $positions
     */
    private static function said(array $cells, array $positions): string
    {
        return implode("\x1F", array_map(fn (int $at) => $cells[$at] ?? '', array_values($positions)));
    }
}
