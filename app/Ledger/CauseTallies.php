<?php

namespace App\Ledger;

use Baggage\Core\Rows\Outcome;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** How many rows each cause keeps out, by their outcome, and how many wait for it in the end ("below"); kept with every batch. */
final class CauseTallies
{
    private const BELOW = 'below';

    /** @param  array<int, array<string, int>>  $counts  cause → outcome or "below" → rows more or fewer */
    public static function add(int $lane, array $counts): void
    {
        foreach (array_chunk($counts, 2000, true) as $some) {
            $rows = [];
            foreach ($some as $cause => $of) {
                foreach (array_filter($of) as $outcome => $n) {
                    $rows[] = "($cause,'$outcome',$n)";
                }
            }
            if ($rows !== []) {
                $all = implode(',', $rows);
                DB::connection()
                    ->getPdo()
                    ->exec("INSERT INTO cause_tallies (lane_id, cause_id, outcome, n, alike)
                        WITH more (cause_id, outcome, n) AS (VALUES $all)
                        SELECT $lane, more.cause_id, more.outcome, more.n, c.alike
                        FROM more STRAIGHT_JOIN causes c FORCE INDEX (PRIMARY) ON c.id = more.cause_id
                        ON DUPLICATE KEY UPDATE n = cause_tallies.n + VALUES(n)");
            }
        }
    }

    /**
     * Lines leave their outcome for another, or the ledger.
     *
     * @param  Builder  $lines  outcomes joined with row_causes
     */
    public static function move(int $lane, Builder $lines, ?Outcome $to): void
    {
        $counts = [];
        $found = $lines
            ->whereNotNull('row_causes.cause_id')
            ->groupBy('row_causes.cause_id', 'row_causes.root_cause_id', 'outcomes.outcome')
            ->selectRaw('row_causes.cause_id, row_causes.root_cause_id, outcomes.outcome, COUNT(*) AS n')
            ->get();
        foreach ($found as $row) {
            [$cause, $n] = [(int) $row->cause_id, (int) $row->n];
            $counts[$cause][$row->outcome] = ($counts[$cause][$row->outcome] ?? 0) - $n;
            if ($to !== null) {
                $counts[$cause][$to->value] = ($counts[$cause][$to->value] ?? 0) + $n;
            }
            if ($row->root_cause_id !== null && $row->outcome === Outcome::Held->value) {
                $root = (int) $row->root_cause_id;
                $counts[$root][self::BELOW] = ($counts[$root][self::BELOW] ?? 0) - $n;
            }
        }
        self::add($lane, $counts);
    }

    /** Counts anew what waits for each cause, after held rows were pointed at others. */
    public static function countBelow(int $lane): void
    {
        DB::transaction(function () use ($lane) {
            DB::table('cause_tallies')->where('lane_id', $lane)->where('outcome', self::BELOW)->delete();
            $held = DB::table('row_causes')
                ->join('outcomes', fn ($j) => $j
                    ->on('row_causes.lane_id', '=', 'outcomes.lane_id')
                    ->on('row_causes.load_id', '=', 'outcomes.load_id')
                    ->on('row_causes.item', '=', 'outcomes.item'))
                ->where('row_causes.lane_id', $lane)
                ->where('outcomes.outcome', Outcome::Held->value)
                ->whereNotNull('row_causes.root_cause_id')
                ->groupBy('row_causes.root_cause_id')
                ->selectRaw('row_causes.root_cause_id AS id, COUNT(*) AS n');
            DB::table('cause_tallies')->insertUsing(
                ['lane_id', 'cause_id', 'outcome', 'n', 'alike'],
                DB::query()
                    ->fromRaw(
                        "({$held->toSql()}) w STRAIGHT_JOIN causes c FORCE INDEX (PRIMARY) ON c.id = w.id",
                        $held->getBindings(),
                    )
                    ->selectRaw("$lane, w.id, '".self::BELOW."', w.n, c.alike"),
            );
        });
    }
}
