<?php

namespace App\Ledger;

use App\Models\Pass;
use App\Models\Repair;
use App\Models\Round;
use Baggage\Core\Rows\CorrectionState;
use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Facades\DB;

/** Which repair freed how many rows in which pass. */
final class RepairBook
{
    private const STAND = ['loaded', 'updated', 'unchanged', 'merged', 'removed'];

    /** The last line of the log of outcomes. */
    public static function logged(): int
    {
        return (int) DB::table('outcome_log')->max('id');
    }

    /** Rows of repairs that went through in a pass, told once it has ended. */
    public static function freed(Pass $pass): void
    {
        $repairs = Repair::query()
            ->where('migration_id', $pass->round->migration_id)
            ->whereNull('undone_at')
            ->where('created_at', '<=', $pass->started_at ?? now())
            ->get();
        if ($repairs->isEmpty()) {
            return;
        }
        [$byCause, $byRow] = self::wentThrough($pass);
        foreach ($repairs as $repair) {
            $n = $repair->row_no !== null ? (int) isset($byRow["$repair->load_id $repair->row_no"]) : 0;
            if ($repair->causes !== null && $repair->round_id === $pass->round_id && $repair->load_id !== null) {
                $ids = CauseSet::fromArray($repair->causes)->query($pass->lane_id, $repair->load_id)->pluck('id')->all();
                $n += array_sum(array_intersect_key($byCause, array_flip($ids)));
            }
            if ($n > 0) {
                $repair->update(['freed' => [$pass->id => $n] + ($repair->freed ?? [])]);
            }
        }
    }

    /**
     * Rows that stand since the pass and were left out before it.
     *
     * @return array{array<int, int>, array<string, true>} cause → rows, and "load row" of those that were left out for few
     */
    private static function wentThrough(Pass $pass): array
    {
        $lines = fn () => DB::table('outcome_log as l')
            ->join('outcomes as o', fn ($j) => $j
                ->on('o.lane_id', '=', 'l.lane_id')
                ->on('o.load_id', '=', 'l.load_id')
                ->on('o.item', '=', 'l.item'))
            ->where('l.id', '>', $pass->log_from)
            ->where('l.lane_id', $pass->lane_id)
            ->where('l.outcome', '<>', Outcome::Pending->value)
            ->whereNotIn('l.outcome', self::STAND)
            ->where('o.pass_id', $pass->id)
            ->whereIn('o.outcome', self::STAND);
        $byCause = $lines()->whereNotNull('l.cause_id')->groupBy('l.cause_id')->selectRaw('l.cause_id, COUNT(*) AS n')
            ->pluck('n', 'cause_id')->map(fn ($n) => (int) $n)->all();
        $single = Repair::query()->where('migration_id', $pass->round->migration_id)->whereNotNull('row_no')->whereNull('undone_at')
            ->get(['load_id', 'row_no']);
        $byRow = [];
        foreach ($single->groupBy('load_id') as $load => $of) {
            foreach ($of->pluck('row_no')->unique()->chunk(1000) as $some) {
                foreach ($lines()->where('l.load_id', $load)->whereIntegerInRaw('l.item', $some->all())->pluck('l.item') as $item) {
                    $byRow["$load $item"] = true;
                }
            }
        }

        return [$byCause, $byRow];
    }

    /**
     * @param  list<int>  $numbers  of decisions
     * @return int rows of rounds that go on which stand on records made with corrections of those numbers
     */
    public static function standingWith(array $numbers): int
    {
        return DB::query()
            ->fromRaw(
                'corrections c STRAIGHT_JOIN correction_places p FORCE INDEX (of_correction) ON p.correction_id = c.id
                STRAIGHT_JOIN round_loads l ON l.take_id = p.take_id
                STRAIGHT_JOIN rounds r ON r.id = l.round_id AND r.ended_as IS NULL
                STRAIGHT_JOIN lanes n ON n.round_id = r.id
                STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = n.id AND o.load_id = l.load_id AND o.item = p.row_no
                STRAIGHT_JOIN passes s ON s.id = o.pass_id AND s.decision >= c.decision',
            )
            ->whereIntegerInRaw('c.decision', $numbers)
            ->where('c.ended', 0)
            ->where('p.state', CorrectionState::Carried->value)
            ->whereIn('o.outcome', self::STAND)
            ->count();
    }

    /** @return array<int, string> pass → its round and number, where freed rows are told */
    public static function passes(Round $round): array
    {
        return Pass::query()
            ->whereIn('round_id', Round::query()->where('migration_id', $round->migration_id)->select('id'))
            ->with('round')
            ->get()
            ->mapWithKeys(fn (Pass $p) => [$p->id => "{$p->round->name}, pass $p->number"])
            ->all();
    }
}
