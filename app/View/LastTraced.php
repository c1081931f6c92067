<?php

namespace App\View;

use App\Models\Migration;

/** The rows somebody looked at last in this session, to go back to. */
final class LastTraced
{
    private const MOST = 12;

    /** @param  \stdClass|null  $line  what the row is in the round; nothing is remembered of a row without an outcome */
    public static function add(Page $page, int $load, int $row, ?\stdClass $line): void
    {
        if ($line === null || $page->round === null) {
            return;
        }
        $space = $page->all()->get($load)->space ?? '';
        $key = [
            'load' => $load,
            'row' => $row,
            'round' => $page->round->id,
            'space' => $space,
            'legacy' => (string) $line->legacy_key,
            'target' => $line->target_key === null ? null : (string) $line->target_key,
            'outcome' => (string) $line->outcome,
        ];
        $others = array_filter(
            self::of($page->migration),
            fn (array $l) => [$l['load'], $l['row'], $l['round']] !== [$load, $row, $page->round->id],
        );
        session(["traced.{$page->migration->id}" => array_slice([$key, ...array_values($others)], 0, self::MOST)]);
    }

    /** @return list<array{load: int, row: int, round: int, space: string, legacy: string, target: string|null, outcome: string}> */
    public static function of(Migration $migration): array
    {
        return session("traced.$migration->id", []);
    }
}
