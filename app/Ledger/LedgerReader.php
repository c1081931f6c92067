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

    /** Rows left out for a parent, or for a key they looked for, that has a target key now. */
    private const FREED = 'SELECT h.item FROM outcomes h FORCE INDEX (by_outcome)
        STRAIGHT_JOIN row_causes r ON r.lane_id = h.lane_id AND r.load_id = h.load_id AND r.item = h.item
        STRAIGHT_JOIN causes c ON c.id = r.cause_id
        STRAIGHT_JOIN outcomes p FORCE INDEX (crosswalk) ON p.lane_id = h.lane_id AND p.space_id = c.parent_space_id
        AND p.legacy_key = c.parent_key AND p.stands = 1
        WHERE h.lane_id = ? AND h.load_id = ? AND h.item > ? AND h.pass_id <> ? AND h.outcome = ?';

    public function __construct(private Round $round)
    {
    }

    /**
     * @param  string|null  $waits  a field: only rows whose reference in it waits to be set
     * @return list<\stdClass> lines of a load with a row number above $after, in row order
     */
    public function lines(Load $load, int $after, ?Outcome $outcome, ?int $cause, int $most, ?string $waits = null): array
    {
        return $this->ofLoad($load)
            ->where('outcomes.item', '>', $after)
            ->when($outcome !== null, fn ($q) => $q->where('outcomes.outcome', $outcome?->value))
            ->when($cause !== null, fn ($q) => $q->where('row_causes.cause_id', $cause))
            ->when($waits !== null, fn ($q) => $q->whereIntegerInRaw(
                'outcomes.item',
                (new Links($this->round->laneId()))->waitingRows($load->id, (string) $waits, $after, $most),
            ))
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

    public function lane(): int
    {
        return $this->round->laneId();
    }

    /**
     * Rows that stand on records, without those merged into them.
     *
     * @param  list<int>  $spaces  that loads of the entity write
     * @param  list<string>  $keys  target keys
     * @return list<array{string, string, int, int, string}> target key, outcome, load, row, legacy key
     */
    public function holders(array $spaces, array $keys): array
    {
        $pdo = DB::connection()->getPdo();
        $found = $spaces === [] || $keys === [] ? false : $pdo->query(
            "SELECT target_key, outcome, load_id, item, legacy_key FROM outcomes FORCE INDEX (target)
            WHERE lane_id = {$this->round->laneId()} AND target_key IN (".implode(',', array_map($pdo->quote(...), $keys)).')
            AND space_id IN ('.implode(',', $spaces).") AND stands = 1 AND outcome <> 'merged'",
        );

        return $found === false ? [] : $found->fetchAll(\PDO::FETCH_NUM);
    }

    /**
     * Whether any row of some loads was worked on.
     *
     * @param  list<int>  $loads
     */
    public function hasWorked(array $loads): bool
    {
        return DB::table('tallies')
            ->where('lane_id', $this->round->laneId())
            ->whereIntegerInRaw('load_id', $loads)
            ->where('outcome', '<>', Outcome::Pending->value)
            ->where('n', '>', 0)
            ->exists();
    }

    /**
     * Rows a retry takes: those that wait, those that are due, and those left out for a parent that has a target key now. What the
     * pass has tried it does not try again, unless the row waits since.
     *
     * @param  int|null  $to  the last one
     * @return list<int>
     */
    public function due(int $pass, int $load, int $after, int $most, ?int $to = null): array
    {
        $lane = $this->round->laneId();
        $parts = [
            ['SELECT item FROM outcomes WHERE lane_id = ? AND load_id = ? AND item > ? AND outcome = ?', Outcome::Pending->value],
            [
                'SELECT d.item FROM due_rows d
                STRAIGHT_JOIN outcomes o ON o.lane_id = d.lane_id AND o.load_id = d.load_id AND o.item = d.item
                WHERE d.lane_id = ? AND d.load_id = ? AND d.item > ? AND o.pass_id <> ?',
                $pass,
            ],
            [
                'SELECT r.item FROM row_causes r FORCE INDEX (PRIMARY)
                STRAIGHT_JOIN outcomes o ON o.lane_id = r.lane_id AND o.load_id = r.load_id AND o.item = r.item
                STRAIGHT_JOIN due_causes d ON d.lane_id = r.lane_id AND d.load_id = r.load_id AND d.cause_id = r.cause_id
                AND d.pass_id = o.pass_id
                WHERE r.lane_id = ? AND r.load_id = ? AND r.item > ? AND o.pass_id <> ? AND o.outcome <> ?',
                $pass,
                Outcome::Waived->value,
            ],
            [self::FREED, $pass, Outcome::Held->value],
            [self::FREED, $pass, Outcome::Rejected->value],
        ];
        $rows = DB::select(
            implode(' UNION ', array_map(fn (array $p) => "($p[0] ORDER BY item LIMIT $most)", $parts))." ORDER BY item LIMIT $most",
            array_merge(...array_map(fn (array $p) => [$lane, $load, $after, ...array_slice($p, 1)], $parts)),
        );

        return array_values(array_filter(array_map(fn ($r) => (int) $r->item, $rows), fn (int $row) => $to === null || $row <= $to));
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

    /**
     * @param  list<string>  $keys  target keys of an entity
     * @return array<array-key, int> those of them a row of the lane stands on, as keys
     */
    public static function own(int $lane, int $entity, array $keys): array
    {
        return array_flip(
            DB::table('outcomes')
                ->join('loads', fn ($j) => $j->on('loads.id', '=', 'outcomes.load_id')->where('loads.entity_id', $entity))
                ->where('outcomes.lane_id', $lane)
                ->whereIn('outcomes.target_key', $keys)
                ->distinct()
                ->pluck('outcomes.target_key')
                ->all(),
        );
    }

    /** Whether the lane made or changed any record. */
    public function hasWritten(): bool
    {
        return DB::table('tallies')
            ->where('lane_id', $this->round->laneId())
            ->whereIn('outcome', [Outcome::Loaded->value, Outcome::Updated->value])
            ->where('n', '>', 0)
            ->exists();
    }

    /**
     * Target keys of rows that stand for a record, those after a row, in row order.
     *
     * @return array<int, string> row → target key
     */
    public function standing(int $load, int $after, int $most): array
    {
        return DB::table('outcomes')
            ->where('lane_id', $this->round->laneId())
            ->where('load_id', $load)
            ->where('item', '>', $after)
            ->whereNotNull('target_key')
            ->where('outcome', '<>', Outcome::Removed->value)
            ->orderBy('item')
            ->limit($most)
            ->pluck('target_key', 'item')
            ->all();
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

    /**
     * What a row of the round is now, and what the same legacy key is in the other rounds of the migration, the newest round first.
     *
     * @return list<\stdClass>
     */
    public function now(Load $load, int $row): array
    {
        $line = $this->ofLoad($load)->where('outcomes.item', $row)->first(['outcomes.space_id', 'outcomes.legacy_key']);
        if ($line === null) {
            return [];
        }
        $from = 'outcomes o LEFT JOIN row_causes w ON w.lane_id = o.lane_id AND w.load_id = o.load_id AND w.item = o.item '
            .'LEFT JOIN causes c ON c.id = w.cause_id';
        $own = self::history($from, 'w.cause_id', 'o.lane_id = ? AND o.load_id = ? AND o.item = ?', [
            $this->round->laneId(), $load->id, $row,
        ]);
        $others = $line->legacy_key === '' ? [] : self::history(
            $from,
            'w.cause_id',
            'o.lane_id IN (SELECT l.id FROM lanes l JOIN rounds m ON m.id = l.round_id WHERE m.migration_id = ? AND l.id <> ?) '
                .'AND o.space_id = ? AND o.legacy_key = ? AND o.load_id = ?',
            [$load->migration_id, $this->round->laneId(), $line->space_id, $line->legacy_key, $load->id],
        );
        $all = [...$own, ...$others];
        usort($all, fn ($a, $b) => $b->lane_id <=> $a->lane_id);

        return $all;
    }

    /**
     * What those were before, the newest first.
     *
     * @param  list<\stdClass>  $now
     * @return list<\stdClass>
     */
    public static function before(array $now): array
    {
        $all = [];
        foreach ($now as $line) {
            array_push($all, ...self::history(
                'outcome_log o LEFT JOIN causes c ON c.id = o.cause_id',
                'o.cause_id',
                'o.lane_id = ? AND o.load_id = ? AND o.item = ?',
                [$line->lane_id, $line->load_id, $line->row_no],
            ));
        }

        return $all;
    }

    /**
     * @param  list<int|string>  $of
     * @return list<\stdClass>
     */
    private static function history(string $from, string $cause, string $where, array $of): array
    {
        $isLog = $cause === 'o.cause_id';

        return DB::select(
            "SELECT o.lane_id, o.load_id, o.item AS row_no, o.outcome, o.target_key, $cause AS cause_id, r.id AS round_id,
                r.name AS round, p.number AS pass, c.message, c.field, c.value, c.stage, c.parent_entity, c.parent_space, c.parent_key"
                .($isLog ? ', o.replaced_at' : ', o.legacy_key')
                ." FROM $from JOIN passes p ON p.id = o.pass_id JOIN rounds r ON r.id = p.round_id WHERE $where "
                .'ORDER BY '.($isLog ? 'o.id' : 'o.lane_id').' DESC LIMIT 50',
            $of,
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
