<?php

namespace App\Ledger;

use App\Models\Load;
use App\Models\Round;
use Baggage\Core\Rows\Outcome;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** Reads the ledger of a round for people: the rows behind a number, a key, a cause, and the history of one row. */
final readonly class LedgerReader
{
    private const LINE = [
        'outcomes.load_id', 'outcomes.item as row_no', 'outcomes.legacy_key', 'outcomes.outcome', 'outcomes.target_key',
        'row_causes.cause_id',
    ];

    private const WITH_NAMES = [
        'o.load_id', 'o.item as row_no', 'o.legacy_key', 'o.outcome', 'o.target_key', 'e.name as entity', 'k.name as space',
        'l.name as load_name',
    ];

    public function __construct(private Round $round)
    {
    }

    /** @return list<\stdClass> lines of a load with a row number above $after, in row order */
    public function lines(Load $load, int $after, ?Outcome $outcome, ?int $cause, int $most): array
    {
        return $this->ofLoad($load)
            ->where('outcomes.item', '>', $after)
            ->when($outcome !== null, fn ($q) => $q->where('outcomes.outcome', $outcome?->value))
            ->when($cause !== null, fn ($q) => $q->where('row_causes.cause_id', $cause))
            ->orderBy('outcomes.item')
            ->limit($most)
            ->get(self::LINE)
            ->all();
    }

    /**
     * @param  list<int>  $causes
     * @return list<\stdClass> the first rows rejected for one of them
     */
    public function rejected(Load $load, array $causes, int $most): array
    {
        return $causes === [] ? [] : $this->ofLoad($load)
            ->where('outcomes.outcome', Outcome::Rejected->value)
            ->whereIntegerInRaw('row_causes.cause_id', $causes)
            ->orderBy('outcomes.item')
            ->limit($most)
            ->get(self::LINE)
            ->all();
    }

    /** @return list<int> the first row of some causes each */
    public function oneOfEachCause(Load $load, int $most): array
    {
        return $this->ofLoad($load)
            ->where('outcomes.outcome', Outcome::Rejected->value)
            ->groupBy('row_causes.cause_id')
            ->selectRaw('MIN(outcomes.item) AS row_no')
            ->limit($most)
            ->pluck('row_no')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    /**
     * Lines with one of the legacy keys in one of the spaces, and those with the target key.
     *
     * @param  list<int>  $spaces
     * @param  list<int>  $entities  spaces of these entities are looked through for the target key
     * @param  list<string>  $keys
     * @return list<\stdClass>
     */
    public function withKey(array $spaces, array $entities, array $keys, string $target, int $most): array
    {
        $rows = $this->outcomes()
            ->whereIntegerInRaw('outcomes.space_id', $spaces)
            ->whereIn('outcomes.legacy_key', $keys)
            ->limit($most)
            ->get(self::LINE)
            ->concat($this->outcomes()
                ->where('outcomes.target_key', $target)
                ->whereIntegerInRaw('outcomes.space_id', $entities)
                ->limit($most)
                ->get(self::LINE));

        return array_values($rows->unique(fn ($r) => "$r->load_id:$r->row_no")->all());
    }

    /**
     * The key crosswalk from its beginning.
     *
     * @param  list<int>  $spaces
     * @return list<\stdClass>
     */
    public function crosswalk(array $spaces, int $most): array
    {
        return $this->named($spaces, $most)
            ->whereNotNull('o.target_key')
            ->orderBy('o.lane_id')
            ->orderBy('o.load_id')
            ->orderBy('o.item')
            ->get()
            ->all();
    }

    /**
     * Lines whose legacy key begins so, and those with the whole target key.
     *
     * @param  list<int>  $spaces
     * @param  list<int>  $entities  spaces of these entities are looked through for the target key
     * @return list<\stdClass>
     */
    public function beginningWith(array $spaces, array $entities, string $key, string $target, int $most): array
    {
        $rows = $this->named($spaces, $most)
            ->where('o.legacy_key', 'like', addcslashes($key, '%_\\').'%')
            ->get()
            ->concat($this->named($entities, $most)->where('o.target_key', $target)->get());

        return array_values($rows->unique(fn ($r) => "$r->load_id:$r->row_no")->all());
    }

    /**
     * @param  list<string>  $keys  legacy keys
     * @return list<array{string, string, string|null, int, int, int|null, string|null}> key, outcome, target key, load, row, the
     *                                                                      cause that in the end keeps it out, its own in words
     */
    public function keys(int $space, array $keys): array
    {
        // Asked for every batch: without the query builder, which makes an object of every row.
        $pdo = DB::connection()->getPdo();
        $found = $pdo->query(
            "SELECT o.legacy_key, o.outcome, o.target_key, o.load_id, o.item, COALESCE(c.root_cause_id, c.cause_id), m.message
            FROM outcomes o FORCE INDEX (crosswalk)
            LEFT JOIN row_causes c ON c.lane_id = o.lane_id AND c.load_id = o.load_id AND c.item = o.item
            LEFT JOIN causes m ON m.id = c.cause_id
            WHERE o.lane_id = {$this->round->laneId()} AND o.space_id = $space
            AND o.legacy_key IN (".implode(',', array_map($pdo->quote(...), $keys)).')',
        );

        return $found === false ? [] : $found->fetchAll(\PDO::FETCH_NUM);
    }

    public function hasKeysOf(int $space): bool
    {
        return DB::table('outcomes')->where('lane_id', $this->round->laneId())->where('space_id', $space)->exists();
    }

    /**
     * Rows a retry takes: those that wait, and those held by a parent that has a target key now.
     *
     * @return list<int>
     */
    public function due(int $load, int $after, int $most): array
    {
        $lane = $this->round->laneId();
        $rows = DB::select(
            '(SELECT item FROM outcomes WHERE lane_id = ? AND load_id = ? AND outcome = ? AND item > ?
            ORDER BY item LIMIT ?)
            UNION
            (SELECT h.item FROM outcomes h FORCE INDEX (by_outcome)
                STRAIGHT_JOIN row_causes r ON r.lane_id = h.lane_id AND r.load_id = h.load_id AND r.item = h.item
                STRAIGHT_JOIN causes c ON c.id = r.cause_id
                STRAIGHT_JOIN outcomes p FORCE INDEX (crosswalk) ON p.lane_id = h.lane_id AND p.space_id = c.parent_space_id
                AND p.legacy_key = c.parent_key AND p.stands = 1
                WHERE h.lane_id = ? AND h.load_id = ? AND h.outcome = ? AND h.item > ? ORDER BY h.item LIMIT ?)
            ORDER BY item LIMIT ?',
            [
                ...[$lane, $load, Outcome::Pending->value, $after, $most],
                ...[$lane, $load, Outcome::Held->value, $after, $most],
                $most,
            ],
        );

        return array_map(fn ($r) => (int) $r->item, $rows);
    }

    /** @return list<int> numbers of rows rejected for a cause, those above $after */
    public function rejectedFor(Load $load, int $cause, int $after, int $most): array
    {
        return $this->ofLoad($load)
            ->where('row_causes.cause_id', $cause)
            ->where('outcomes.outcome', Outcome::Rejected->value)
            ->where('outcomes.item', '>', $after)
            ->orderBy('outcomes.item')
            ->limit($most)
            ->pluck('outcomes.item')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    /** @return array<int, array<string, int>> load → outcome → rows, counted line by line */
    public function counted(): array
    {
        return self::byLoad(
            DB::table('outcomes')
                ->where('lane_id', $this->round->laneId())
                ->groupBy('load_id', 'outcome')
                ->selectRaw('load_id, outcome, COUNT(*) AS n'),
        );
    }

    /** @return array<int, array<string, int>> load → outcome → rows, as kept with every batch */
    public function tallies(): array
    {
        return self::byLoad(
            DB::table('tallies')->where('lane_id', $this->round->laneId())->where('n', '<>', 0)->select('load_id', 'outcome', 'n'),
        );
    }

    public function line(int $space, string $key): ?\stdClass
    {
        return $this->outcomes()->where('outcomes.space_id', $space)->where('outcomes.legacy_key', $key)->first(self::LINE);
    }

    /** Whether any round has an outcome of the load. */
    public static function knows(int $load): bool
    {
        return DB::table('outcomes')->where('load_id', $load)->exists();
    }

    /** @return list<\stdClass> what the row is now in every round of the migration, the newest first */
    public static function now(Load $load, int $row): array
    {
        return self::history('outcomes o LEFT JOIN row_causes w ON w.lane_id = o.lane_id AND w.load_id = o.load_id AND w.item = o.item '
            .'LEFT JOIN causes c ON c.id = w.cause_id', 'w.cause_id', 'o.lane_id', $load, $row);
    }

    /** @return list<\stdClass> what the row was before in every round of the migration, the newest first */
    public static function before(Load $load, int $row): array
    {
        return self::history('outcome_log o LEFT JOIN causes c ON c.id = o.cause_id', 'o.cause_id', 'o.id', $load, $row);
    }

    /** @return list<\stdClass> */
    private static function history(string $from, string $cause, string $order, Load $load, int $row): array
    {
        return DB::select(
            "SELECT o.load_id, o.item AS row_no, o.outcome, o.target_key, $cause AS cause_id, r.id AS round_id, r.name AS round,
                p.number AS pass, c.message, c.field, c.value, c.stage, c.parent_entity, c.parent_space, c.parent_key"
                .($cause === 'o.cause_id' ? ', o.replaced_at' : ', o.legacy_key')
                ." FROM $from JOIN passes p ON p.id = o.pass_id JOIN rounds r ON r.id = p.round_id
            WHERE o.lane_id IN (SELECT l.id FROM lanes l JOIN rounds m ON m.id = l.round_id WHERE m.migration_id = ?)
                AND o.load_id = ? AND o.item = ?
            ORDER BY $order DESC",
            [$load->migration_id, $load->id, $row],
        );
    }

    /** @return array<int, array<string, int>> */
    private static function byLoad(Builder $counts): array
    {
        $found = [];
        foreach ($counts->get() as $row) {
            $found[(int) $row->load_id][(string) $row->outcome] = (int) $row->n;
        }

        return $found;
    }

    /** Lines of the lane with their causes. */
    private function outcomes(): Builder
    {
        return DB::table('outcomes')
            ->leftJoin('row_causes', fn ($j) => $j
                ->on('row_causes.lane_id', '=', 'outcomes.lane_id')
                ->on('row_causes.load_id', '=', 'outcomes.load_id')
                ->on('row_causes.item', '=', 'outcomes.item'))
            ->where('outcomes.lane_id', $this->round->laneId());
    }

    private function ofLoad(Load $load): Builder
    {
        return $this->outcomes()->where('outcomes.load_id', $load->id);
    }

    /** @param  list<int>  $spaces */
    private function named(array $spaces, int $most): Builder
    {
        return DB::table('outcomes as o')
            ->join('loads as l', 'l.id', '=', 'o.load_id')
            ->join('key_spaces as k', 'k.id', '=', 'o.space_id')
            ->join('entities as e', 'e.id', '=', 'k.entity_id')
            ->where('o.lane_id', $this->round->laneId())
            ->whereIntegerInRaw('o.space_id', $spaces)
            ->select(self::WITH_NAMES)
            ->limit($most);
    }
}
