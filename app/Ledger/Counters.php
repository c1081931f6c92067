<?php

namespace App\Ledger;

use Illuminate\Support\Facades\DB;

/** Records a lane made and removed, by effect, and what the target held before and after each of its passes. */
final class Counters
{
    /**
     * @param  int  $made  records more, or fewer where negative
     * @param  int  $removed  records removed, or put back where negative: what was taken back was never made
     */
    public static function add(int $lane, int $entity, int $made, int $removed = 0): void
    {
        if ($made !== 0 || $removed !== 0) {
            DB::statement(
                'INSERT INTO record_counters (lane_id, entity_id, made, removed) VALUES (?, ?, ?, ?) '
                    .'ON DUPLICATE KEY UPDATE made = made + VALUES(made), removed = removed + VALUES(removed)',
                [$lane, $entity, $made, $removed],
            );
        }
    }

    /** @return array<int, int> entity → records made, less those removed */
    public static function made(int $lane): array
    {
        return DB::table('record_counters')
            ->where('lane_id', $lane)
            ->pluck('made', 'entity_id')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    /** @return array<int, int> entity → records removed */
    public static function removed(int $lane): array
    {
        return DB::table('record_counters')->where('lane_id', $lane)->pluck('removed', 'entity_id')->map(fn ($n) => (int) $n)->all();
    }

    /** @param  array<int, int>  $counts  entity → records in the target; what was counted at the beginning stays */
    public static function begin(int $pass, array $counts): void
    {
        foreach ($counts as $entity => $n) {
            DB::table('target_counts')->insertOrIgnore(['pass_id' => $pass, 'entity_id' => $entity, 'before' => $n]);
        }
    }

    /** @param  array<int, int>  $counts  entity → records in the target */
    public static function end(int $pass, array $counts): void
    {
        foreach ($counts as $entity => $n) {
            DB::table('target_counts')->where('pass_id', $pass)->where('entity_id', $entity)->update(['after' => $n]);
        }
    }

    /** @return array<string, int> name of an entity → records before the first pass of the lane */
    public static function before(int $lane): array
    {
        return DB::table('target_counts')
            ->join('entities', 'entities.id', '=', 'target_counts.entity_id')
            ->where('pass_id', DB::table('passes')->where('lane_id', $lane)->selectRaw('MIN(id)'))
            ->pluck('before', 'entities.name')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    /** @return array<int, list<array{int, int|null}>> entity → before and after of each pass of the lane, in their order */
    public static function ofPasses(int $lane): array
    {
        $all = [];
        $found = DB::table('target_counts')
            ->join('passes', 'passes.id', '=', 'target_counts.pass_id')
            ->where('passes.lane_id', $lane)
            ->orderBy('passes.id')
            ->get(['entity_id', 'before', 'after']);
        foreach ($found as $row) {
            $all[(int) $row->entity_id][] = [(int) $row->before, $row->after === null ? null : (int) $row->after];
        }

        return $all;
    }
}
