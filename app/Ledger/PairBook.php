<?php

namespace App\Ledger;

use App\Decisions\Numbers;
use App\Decisions\RowKeys;
use App\Models\Load;
use App\Models\Round;
use App\Models\Take;
use Baggage\Core\Loading\Pairs;
use Baggage\Core\Rows\Journey;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/**
 * Rows matched by hand to records of a target. A pair follows its row into later takes, and into rounds in the same target; but one with a
 * record that a row of its lane made holds in that lane alone, for the next round gives it another key.
 */
final readonly class PairBook implements Pairs
{
    private const LEFT_OUT = ['rejected', 'held', 'excluded', 'waived'];

    /** @param  int  $decision  the number of the last decision that counts */
    public function __construct(private int $load, private int $target, private int $lane, private int $take, private int $decision)
    {
    }

    public function of(array $journeys): array
    {
        $known = DB::table('pairs')->where('load_id', $this->load)->where('target_id', $this->target)->exists();
        if (! $known) {
            return [];
        }
        $rows = array_map(fn (Journey $j) => $j->row, $journeys);
        $keys = array_values(array_unique(array_filter(array_map(fn (Journey $j) => $j->legacyKey, $journeys), fn ($k) => $k !== '')));
        $byKey = $this->counting(DB::table('pairs'))
            ->whereIn('pairs.legacy_key', $keys)
            ->orderBy('pairs.decision')
            ->pluck('target_key', 'legacy_key')
            ->all();
        $byRow = $this->counting(DB::table('row_places')->join('pairs', 'pairs.row_key_id', '=', 'row_places.row_key_id'))
            ->where('row_places.take_id', $this->take)
            ->whereIntegerInRaw('row_places.row_no', $rows)
            ->orderBy('pairs.decision')
            ->pluck('pairs.target_key', 'row_places.row_no')
            ->all();
        $found = [];
        foreach ($journeys as $journey) {
            $is = $byRow[$journey->row] ?? $byKey[$journey->legacyKey] ?? null;
            $found += $is === null ? [] : [$journey->row => (string) $is];
        }

        return $found;
    }

    /** A row is this record of the target. One that was said before is said no longer. */
    public static function put(Round $round, Load $load, Take $take, int $row, string $key, string $targetKey, string $reason): void
    {
        DB::transaction(function () use ($round, $load, $take, $row, $key, $targetKey, $reason) {
            $number = Numbers::next($round->migration_id, 'pair');
            $target = (int) $round->lane?->target_id;
            $of = $key === '' ? ['row_key_id' => RowKeys::of($take, [$row])[$row]] : ['legacy_key' => $key];
            DB::table('pairs')->where('load_id', $load->id)->where('target_id', $target)->where($of)->where('ended', 0)
                ->update(['ended' => $number]);
            $isOwn = LedgerReader::own($round->laneId(), $load->entity_id, [$targetKey]) !== [];
            DB::table('pairs')->insert($of + [
                'load_id' => $load->id, 'target_id' => $target, 'lane_id' => $isOwn ? $round->laneId() : null,
                'target_key' => $targetKey, 'reason' => $reason,
                'user_id' => Auth::id(), 'decision' => $number, 'created_at' => now(), 'updated_at' => now(),
            ]);
        });
    }

    /**
     * What was said with some numbers is said no longer.
     *
     * @param  list<int>  $numbers
     * @return int how many
     */
    public static function end(int $migration, array $numbers): int
    {
        $number = Numbers::next($migration, 'pair ended');

        return DB::table('pairs')->whereIntegerInRaw('decision', $numbers)->where('ended', 0)->update(['ended' => $number]);
    }

    /** @return \stdClass|null target_key, reason, who, created_at of what was said of a row and counts */
    public static function about(Round $round, int $load, string $key): ?\stdClass
    {
        return DB::table('pairs as p')
            ->leftJoin('users as u', 'u.id', '=', 'p.user_id')
            ->where('p.load_id', $load)
            ->where('p.target_id', $round->lane?->target_id)
            ->where('p.legacy_key', $key)
            ->where(fn (Builder $q) => $q->whereNull('p.lane_id')->orWhere('p.lane_id', $round->laneId()))
            ->where('p.ended', 0)
            ->first(['p.id', 'p.target_key', 'p.reason', 'u.name as who', 'p.created_at']);
    }

    /** Rows of a lane that a pair was made for, or taken back, since the pass of their outcome. */
    public static function since(int $lane, int $load, int $take): Builder
    {
        $said = fn (Builder $q) => $q->whereRaw(
            '(p.decision > s.decision AND p.ended = 0) OR (p.decision <= s.decision AND p.ended > s.decision)',
        );
        $byKey = DB::query()
            ->fromRaw(
                'pairs p STRAIGHT_JOIN lanes n ON n.id = ? AND n.target_id = p.target_id AND COALESCE(p.lane_id, n.id) = n.id
                STRAIGHT_JOIN round_loads l ON l.round_id = n.round_id AND l.load_id = p.load_id
                STRAIGHT_JOIN outcomes o FORCE INDEX (crosswalk) ON o.lane_id = n.id AND o.space_id = l.space_id
                AND o.legacy_key = p.legacy_key AND o.load_id = p.load_id
                STRAIGHT_JOIN passes s ON s.id = o.pass_id',
                [$lane],
            )
            ->where('p.load_id', $load)
            ->where($said);
        $byRow = DB::query()
            ->fromRaw(
                'pairs p STRAIGHT_JOIN lanes n ON n.id = ? AND n.target_id = p.target_id AND COALESCE(p.lane_id, n.id) = n.id
                STRAIGHT_JOIN row_places t FORCE INDEX (PRIMARY) ON t.row_key_id = p.row_key_id AND t.take_id = ?
                STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = n.id AND o.load_id = p.load_id AND o.item = t.row_no
                STRAIGHT_JOIN passes s ON s.id = o.pass_id',
                [$lane, $take],
            )
            ->where('p.load_id', $load)
            ->where($said);
        $columns = ['o.lane_id', 'o.load_id', 'o.item'];

        return $byKey->whereIn('o.outcome', self::LEFT_OUT)->select($columns)
            ->union($byRow->whereIn('o.outcome', self::LEFT_OUT)->select($columns));
    }

    private function counting(Builder $pairs): Builder
    {
        return $pairs
            ->where('pairs.load_id', $this->load)
            ->where('pairs.target_id', $this->target)
            ->where(fn (Builder $q) => $q->whereNull('pairs.lane_id')->orWhere('pairs.lane_id', $this->lane))
            ->where('pairs.decision', '<=', $this->decision)
            ->where(fn (Builder $q) => $q->where('pairs.ended', 0)->orWhere('pairs.ended', '>', $this->decision));
    }
}
