<?php

namespace App\Ledger;

use App\Models\Round;
use Illuminate\Support\Facades\DB;

/** Deletes a round with everything that is known of its rows. In ranges: one statement over millions of rows would hold them all. */
final class LedgerEraser
{
    private const AT_ONCE = 20_000;

    private const OF_LANE = [
        'row_causes', 'outcome_log', 'links', 'due_rows', 'due_causes', 'stale_rows', 'cause_tallies', 'tallies', 'match_entries',
        'match_reads', 'pairs', 'record_counters', 'announced_keys', 'causes', 'written_otherwise', 'outcomes',
    ];

    public static function erase(Round $round): void
    {
        $passes = DB::table('passes')->where('round_id', $round->id)->pluck('id')->all();
        $lane = $round->lane?->id;
        foreach ($lane === null ? [] : self::OF_LANE as $table) {
            self::inRanges($table, 'lane_id', [$lane]);
        }
        self::inRanges('values_before', 'pass_id', $passes);
        self::inRanges('left_records', 'pass_id', $passes);
        self::inRanges('moved_keys', 'pass_id', $passes);
        self::inRanges('new_keys', 'pass_id', $passes);
        $reckonings = DB::table('reckonings')->where('round_id', $round->id)->pluck('id')->all();
        self::inRanges('differing_rows', 'reckoning_id', $reckonings);
        self::inRanges('total_groups', 'reckoning_id', $reckonings);
        self::inRanges('group_rows', 'reckoning_id', $reckonings);
        $loads = DB::table('pass_loads')->whereIntegerInRaw('pass_id', $passes)->pluck('id')->all();
        foreach (['claims', 'contested_rows', 'stretches', 'delta_rows'] as $table) {
            self::inRanges($table, 'pass_load_id', $loads);
        }
        DB::transaction(function () use ($round, $passes) {
            DB::table('target_counts')->whereIntegerInRaw('pass_id', $passes)->delete();
            DB::table('pass_loads')->whereIntegerInRaw('pass_id', $passes)->delete();
            DB::table('passes')->where('round_id', $round->id)->delete();
            foreach (['round_loads', 'counts', 'reckonings', 'lanes'] as $table) {
                DB::table($table)->where('round_id', $round->id)->delete();
            }
            $round->delete();
        });
    }

    /** @param  list<int>  $ids */
    private static function inRanges(string $table, string $column, array $ids): void
    {
        do {
            $n = $ids === [] ? 0 : DB::table($table)->whereIntegerInRaw($column, $ids)->limit(self::AT_ONCE)->delete();
        } while ($n === self::AT_ONCE);
    }
}
