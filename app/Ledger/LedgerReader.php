<?php

namespace App\Ledger;

use App\Models\Load;
use App\Models\Round;
use App\Models\RoundLoad;
use App\Staging\StagedRows;
use Baggage\Core\Reconciling\CountProof;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\Standing;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;

/** Reads the ledger of a round for people: the rows behind a number, a key, a cause, and the history of one row. */
final readonly class LedgerReader
{
    private const AT_ONCE = 20_000;

    private const ONE = 'o.lane_id = ? AND o.load_id = ? AND o.item = ?';

    /** Outcomes of rows that stand on a record as they are. */
    public const STANDS = ['loaded', 'updated', 'unchanged', 'merged'];

    public const BESIDE = ['gone', 'review', 'withdrawn'];

    /** Outcomes of rows whose record may stand with older values. */
    public const OLDER = ['rejected', 'held', 'waived', 'excluded'];

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
        STRAIGHT_JOIN row_causes r FORCE INDEX (PRIMARY) ON r.lane_id = h.lane_id AND r.load_id = h.load_id AND r.item = h.item
        STRAIGHT_JOIN causes c FORCE INDEX (PRIMARY) ON c.id = r.cause_id
        STRAIGHT_JOIN outcomes p FORCE INDEX (crosswalk) ON p.lane_id = h.lane_id AND p.space_id = c.parent_space_id
        AND p.legacy_key = c.parent_key AND p.stands = 1
        WHERE h.lane_id = ? AND h.load_id = ? AND h.item > ? AND h.pass_id <> ? AND h.outcome = ?';

    public function __construct(private Round $round)
    {
    }

    /**
     * @param  list<int>  $causes
     * @return list<\stdClass> the first rows rejected for one of them
     */
    public function rejected(int $load, array $causes, int $most): array
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
        return $this->ofLoad($load->id)
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
     * The key crosswalk by legacy key, one space after another.
     *
     * @param  list<int>  $spaces
     * @param  array{int, int, string}|null  $after  space and key of the last line before, and how many of this key were before; null
     *                                        from its beginning
     * @return list<\stdClass> with space_id
     */
    public function crosswalk(array $spaces, ?array $after, int $most): array
    {
        sort($spaces);
        $parts = $with = [];
        foreach ($spaces as $space) {
            if ($after === null || $space >= $after[0]) {
                // In the order of the index itself: of equal keys by load and row.
                [, $skip, $from] = $after !== null && $space === $after[0] ? $after : [0, 0, ''];
                $parts[] = '(SELECT space_id, legacy_key, stands, load_id, item, outcome, target_key FROM outcomes FORCE INDEX (crosswalk)
                    WHERE lane_id = ? AND space_id = ? AND legacy_key >= ?
                    ORDER BY legacy_key, stands LIMIT '.$most.' OFFSET '.$skip.')';
                array_push($with, $this->round->laneId(), $space, $from);
            }
        }

        return $parts === [] ? [] : DB::select(
            'SELECT '.implode(', ', self::WITH_NAMES).', o.space_id FROM ('.implode(' UNION ALL ', $parts).') o
            JOIN loads l ON l.id = o.load_id JOIN key_spaces k ON k.id = o.space_id JOIN entities e ON e.id = k.entity_id
            ORDER BY o.space_id, o.legacy_key, o.stands, o.load_id, o.item LIMIT '.$most,
            $with,
        );
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
     * @return list<array{string, string, string|null, int, int, int|null, string|null, bool, bool}> key, outcome, target key, load, row,
     *                                                                      the cause that in the end keeps it out, its own in words,
     *                                                                      whether it is delivered no more (its outcome is the one it
     *                                                                      had), and whether its record is to go
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

        return $found === false ? [] : $this->asTheyStood($found->fetchAll(\PDO::FETCH_NUM), 2, 3);
    }

    /**
     * @param  list<non-empty-list<mixed>>  $lines
     * @param  int  $target  where the target key is in a line, in which the outcome is the second
     * @param  int  $load  and where the load is, before the row
     * @return list<mixed> the same, those that stand with the outcome their record has to the lane, each with whether it is delivered
     *                     no more, and whether its record is to go
     */
    private function asTheyStood(array $lines, int $target, int $load): array
    {
        $other = array_filter($lines, fn (array $l) => $l[$target] !== null
            && in_array($l[1], [...self::OLDER, ...self::BESIDE], true));
        $rows = array_map(fn (array $l) => [(int) $l[$load], (int) $l[$load + 1]], $other);
        $before = $rows === [] ? [] : $this->stoodAs(array_values($rows));
        foreach ($lines as $i => $line) {
            array_push($lines[$i], isset($other[$i]) && in_array($line[1], self::BESIDE, true),
                isset($other[$i]) && $line[1] === Outcome::Withdrawn->value);
            $lines[$i][1] = isset($other[$i]) ? ($before[$line[$load].' '.$line[$load + 1]] ?? Outcome::Loaded)->value : $line[1];
        }

        return $lines;
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
     * @return list<array{string, string, int, int, string, bool, bool}> target key, outcome, load, row, legacy key, whether it is
     *                                                             delivered no more, and whether its record is to go
     */
    public function holders(array $spaces, array $keys): array
    {
        $pdo = DB::connection()->getPdo();
        $found = $spaces === [] || $keys === [] ? false : $pdo->query(
            "SELECT target_key, outcome, load_id, item, legacy_key FROM outcomes FORCE INDEX (target)
            WHERE lane_id = {$this->round->laneId()} AND target_key IN (".implode(',', array_map($pdo->quote(...), $keys)).')
            AND space_id IN ('.implode(',', $spaces).") AND stands = 1 AND outcome <> 'merged'",
        );

        return $found === false ? [] : $this->asTheyStood($found->fetchAll(\PDO::FETCH_NUM), 0, 2);
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
     * @param  Only|null  $only  the causes whose rows are meant, and what they free or put in motion
     * @param  int  $logged  the last line of the log before the pass
     * @param  int|null  $delta  the load's line in a delta pass: it takes what differs, and not what is due
     * @return list<int>
     */
    public function due(
        int $pass,
        int $load,
        int $after,
        int $most,
        ?int $to = null,
        ?Only $only = null,
        int $logged = 0,
        ?int $delta = null,
    ): array {
        $lane = $this->round->laneId();
        $parts = match (true) {
            $delta !== null => self::differing($pass, $delta),
            $only !== null => self::only($pass, $load, $only, $logged),
            default => self::all($pass),
        };
        if ($parts === []) {
            return [];
        }
        $rows = DB::select(
            implode(' UNION ', array_map(fn (array $p) => "($p[0] ORDER BY item LIMIT $most)", $parts))." ORDER BY item LIMIT $most",
            array_merge(...array_map(fn (array $p) => [$lane, $load, $after, ...array_slice($p, 1)], $parts)),
        );

        return array_values(array_filter(array_map(fn ($r) => (int) $r->item, $rows), fn (int $row) => $to === null || $row <= $to));
    }

    /** @return list<array{string, 1?: int|string, 2?: int|string, 3?: int|string|null, 4?: int|string|null}> query and its values */
    private static function only(int $pass, int $load, Only $only, int $logged): array
    {
        $parts = [
            [
                'SELECT o.item FROM outcomes o WHERE o.lane_id = ? AND o.load_id = ? AND o.item > ? AND o.outcome = ? AND EXISTS (
                SELECT 1 FROM outcome_log l WHERE l.lane_id = o.lane_id AND l.load_id = o.load_id AND l.item = o.item AND l.id > ?)',
                Outcome::Pending->value,
                $logged,
            ],
            [self::FREED.' AND p.pass_id = ?', $pass, Outcome::Held->value, $pass],
            [self::FREED.' AND p.pass_id = ?', $pass, Outcome::Rejected->value, $pass],
        ];
        if ($load === $only->load) {
            // Values of a join would stand before the others: they are written where they are compared.
            [$stage, $code, $field] = array_map(
                fn (?string $v) => $v === null ? 'NULL' : (string) DB::connection()->getPdo()->quote($v),
                $only->alike,
            );
            $alike = "STRAIGHT_JOIN causes c FORCE INDEX (PRIMARY) ON c.id = r.cause_id
                AND c.stage = $stage AND c.code = $code AND c.field <=> $field";
            $parts[] = [
                "SELECT d.item FROM due_rows d
                STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = d.lane_id AND o.load_id = d.load_id AND o.item = d.item
                STRAIGHT_JOIN row_causes r FORCE INDEX (PRIMARY) ON r.lane_id = d.lane_id AND r.load_id = d.load_id AND r.item = d.item
                $alike WHERE d.lane_id = ? AND d.load_id = ? AND d.item > ? AND o.pass_id <> ?",
                $pass,
            ];
            $parts[] = [
                "SELECT r.item FROM row_causes r FORCE INDEX (PRIMARY)
                STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = r.lane_id AND o.load_id = r.load_id AND o.item = r.item
                STRAIGHT_JOIN due_causes d FORCE INDEX (PRIMARY)
                ON d.lane_id = r.lane_id AND d.load_id = r.load_id AND d.cause_id = r.cause_id AND d.pass_id = o.pass_id
                $alike WHERE r.lane_id = ? AND r.load_id = ? AND r.item > ? AND o.pass_id <> ? AND o.outcome <> ?",
                $pass,
                Outcome::Waived->value,
            ];
        }

        return $parts;
    }

    /**
     * @param  list<int>  $items
     * @return list<\stdClass> item, outcome, pass_id: the last lines by which rows stood that do not any more
     */
    private function lastStood(int $load, array $items): array
    {
        $last = DB::table('outcome_log')->forceIndex('by_row')->where('lane_id', $this->round->laneId())->where('load_id', $load)
            ->whereIntegerInRaw('item', $items)->whereIn('outcome', self::STANDS)->groupBy('item')->selectRaw('MAX(id) AS id');

        return $items === [] ? [] : DB::query()->fromSub($last, 'm')->join('outcome_log as l', 'l.id', '=', 'm.id')
            ->get(['l.item', 'l.outcome', 'l.pass_id'])->all();
    }

    /** @return list<array{string, 1?: int|string, 2?: int|string}> query and its values */
    private static function differing(int $pass, int $delta): array
    {
        return [
            ['SELECT item FROM outcomes WHERE lane_id = ? AND load_id = ? AND item > ? AND outcome = ?', Outcome::Pending->value],
            // The lane and the load are those of the list already; so the values stand in the order of the others.
            [
                "SELECT o.item FROM delta_rows d FORCE INDEX (PRIMARY)
                STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = ? AND o.load_id = ? AND o.item = d.item
                WHERE d.item > ? AND d.pass_load_id = $delta AND d.kind = 'work' AND o.pass_id <> ? AND NOT o.seen_by <=> ?",
                $pass,
                $pass,
            ],
            [self::FREED, $pass, Outcome::Held->value],
            [self::FREED, $pass, Outcome::Rejected->value],
        ];
    }

    /**
     * What rows stand on; what the record is to the lane is read from the log where the line says something else since.
     *
     * @param  list<int>  $rows
     * @return array<int, Standing> by row
     */
    public function standingOn(int $load, array $rows): array
    {
        $lane = $this->round->laneId();
        $found = $rows === [] ? [] : DB::select(
            'SELECT o.item, o.outcome, o.target_key, LOWER(HEX(o.sent_hash)) AS sent, o.legacy_key, d.item AS again
            FROM outcomes o FORCE INDEX (PRIMARY)
            LEFT JOIN due_rows d ON d.lane_id = o.lane_id AND d.load_id = o.load_id AND d.item = o.item AND d.pass_id = o.pass_id
            WHERE o.lane_id = ? AND o.load_id = ? AND o.item IN ('.implode(',', $rows).') AND o.target_key IS NOT NULL
            AND o.outcome <> ?',
            [$lane, $load, Outcome::Removed->value],
        );
        $before = $this->stoodAs(array_map(
            fn (\stdClass $r) => [$load, (int) $r->item],
            array_filter($found, fn (\stdClass $r) => ! in_array($r->outcome, self::STANDS, true)),
        ));
        $standing = [];
        foreach ($found as $r) {
            $isOlder = ! in_array($r->outcome, self::STANDS, true);
            $standing[(int) $r->item] = new Standing(
                $isOlder ? $before["$load $r->item"] ?? Outcome::Loaded : Outcome::from($r->outcome),
                (string) $r->target_key,
                $r->sent,
                (string) $r->legacy_key,
                $isOlder,
                $r->again !== null,
            );
        }

        return $standing;
    }

    /**
     * Those of some rows whose record no row of another load stands on or changed.
     *
     * @param  list<int>  $rows
     * @return array<int, int> row → the pass that sent its record
     */
    public function alone(int $load, int $entity, array $rows): array
    {
        $found = DB::select(
            'SELECT o.item, o.outcome, o.pass_id FROM outcomes o FORCE INDEX (PRIMARY)
            WHERE o.lane_id = ? AND o.load_id = ? AND o.item IN ('.implode(',', $rows).') AND NOT EXISTS (
                SELECT 1 FROM outcomes x FORCE INDEX (target) JOIN loads l ON l.id = x.load_id AND l.entity_id = ?
                WHERE x.lane_id = o.lane_id AND x.target_key = o.target_key AND (x.load_id <> o.load_id OR x.item <> o.item))',
            [$this->round->laneId(), $load, $entity],
        );
        $stand = array_filter($found, fn (\stdClass $r) => in_array($r->outcome, self::STANDS, true));
        // Of those that failed since another pass sent it.
        $failed = array_map(intval(...), array_column(array_diff_key($found, $stand), 'item'));
        $passes = array_column($this->lastStood($load, $failed), 'pass_id', 'item');

        return array_map(intval(...), array_column($stand, 'pass_id', 'item') + $passes);
    }

    /**
     * What records of rows are to the lane whose cells failed since, or which are delivered no more.
     *
     * @param  list<array{int, int}>  $rows  load and row
     * @return array<string, Outcome> by "load row"
     */
    private function stoodAs(array $rows): array
    {
        $of = [];
        foreach ($rows as [$load, $item]) {
            $of[$load][] = $item;
        }
        $found = [];
        foreach ($of as $load => $items) {
            foreach ($this->lastStood($load, $items) as $line) {
                $found["$load $line->item"] = Outcome::from($line->outcome);
            }
        }

        return $found;
    }

    /** @return list<array{string, 1?: int|string, 2?: int|string}> query and its values */
    private static function all(int $pass): array
    {
        return [
            ['SELECT item FROM outcomes WHERE lane_id = ? AND load_id = ? AND item > ? AND outcome = ?', Outcome::Pending->value],
            [
                'SELECT d.item FROM due_rows d
                STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = d.lane_id AND o.load_id = d.load_id AND o.item = d.item
                WHERE d.lane_id = ? AND d.load_id = ? AND d.item > ? AND o.pass_id <> ?',
                $pass,
            ],
            [
                'SELECT r.item FROM row_causes r FORCE INDEX (PRIMARY)
                STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = r.lane_id AND o.load_id = r.load_id AND o.item = r.item
                STRAIGHT_JOIN due_causes d FORCE INDEX (PRIMARY)
                ON d.lane_id = r.lane_id AND d.load_id = r.load_id AND d.cause_id = r.cause_id AND d.pass_id = o.pass_id
                WHERE r.lane_id = ? AND r.load_id = ? AND r.item > ? AND o.pass_id <> ? AND o.outcome <> ?',
                $pass,
                Outcome::Waived->value,
            ],
            [self::FREED, $pass, Outcome::Held->value],
            [self::FREED, $pass, Outcome::Rejected->value],
        ];
    }

    /** @return list<int> numbers of rows rejected for some causes, those above $after */
    public function rejectedFor(Load $load, CauseSet $causes, int $after, int $most): array
    {
        return $this->ofLoad($load->id)
            ->whereIn('row_causes.cause_id', $causes->query($this->round->laneId(), $load->id)->select('id'))
            ->where('outcomes.outcome', Outcome::Rejected->value)
            ->where('outcomes.item', '>', $after)
            ->orderBy('outcomes.item')
            ->limit($most)
            ->pluck('outcomes.item')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    /**
     * Rows without any outcome, and outcomes of rows that are not there.
     *
     * @param  int  $reached  so many rows of the take should have one
     * @return list<int> the first of them
     */
    public function without(int $load, int $take, int $reached, int $most): array
    {
        $lines = fn () => DB::table('outcomes')->where('lane_id', $this->round->laneId())->where('load_id', $load);
        $wrong = [];
        $last = 0;
        for ($left = $reached; $left > 0 && count($wrong) < $most; $left -= self::AT_ONCE) {
            $rows = StagedRows::numbers($take)->where('row_no', '>', $last)->orderBy('row_no')->limit(min($left, self::AT_ONCE))
                ->pluck('row_no')->map(fn ($n) => (int) $n)->all();
            if ($rows === []) {
                break;
            }
            [$after, $last] = [$last, (int) end($rows)];
            $there = $lines()->where('item', '>', $after)->where('item', '<=', $last)->whereNotIn('outcome', self::BESIDE)
                ->pluck('item')->map(fn ($n) => (int) $n)->all();
            array_push($wrong, ...array_diff($rows, $there), ...array_diff($there, $rows));
        }
        $beyond = $lines()->where('item', '>', $last)->whereNotIn('outcome', self::BESIDE)->orderBy('item')->limit($most)
            ->pluck('item')->map(fn ($n) => (int) $n)->all();

        return array_slice([...$wrong, ...$beyond], 0, $most);
    }

    /** @return array<int, array<string, int>> load → outcome → rows, counted line by line */
    public function counted(): array
    {
        $counted = self::byLoad(
            DB::table('outcomes')
                ->where('lane_id', $this->round->laneId())
                ->groupBy('load_id', 'outcome')
                ->selectRaw('load_id, outcome, COUNT(*) AS n'),
        );
        foreach ($this->older() as $load => $n) {
            $counted[$load][CountProof::OLDER] = $n;
        }

        return $counted;
    }

    /** @return array<int, int> load → rows left out whose record stands with older values */
    private function older(): array
    {
        return DB::table('outcomes')->where('lane_id', $this->round->laneId())->whereIn('outcome', self::OLDER)->whereNotNull('target_key')
            ->groupBy('load_id')->selectRaw('load_id, COUNT(*) AS n')->pluck('n', 'load_id')->map(fn ($n) => (int) $n)->all();
    }

    /**
     * @param  list<int>  $lanes
     * @return array<int, array<string, int>> lane → outcome → rows of all its loads, as kept with every batch
     */
    public static function ofLanes(array $lanes): array
    {
        $found = DB::table('tallies')
            ->whereIntegerInRaw('lane_id', $lanes)
            ->groupBy('lane_id', 'outcome')
            ->selectRaw('lane_id, outcome, SUM(n) AS n')
            ->get();
        $all = [];
        foreach ($found as $row) {
            $all[(int) $row->lane_id][(string) $row->outcome] = (int) $row->n;
        }

        return $all;
    }

    /** @return array{Collection<int, RoundLoad>, array<int, array<string, int>>} loads of a round, and load → outcome → rows as tallied */
    public static function loadsWithTallies(Round $round): array
    {
        $lines = RoundLoad::stated($round)
            ->leftJoin('tallies', fn ($j) => $j
                ->on('tallies.load_id', '=', 'round_loads.load_id')
                ->where('tallies.lane_id', $round->laneId())
                ->where('tallies.n', '<>', 0))
            ->orderBy('round_loads.id')
            ->get([...RoundLoad::STATED, 'tallies.outcome as outcome', 'tallies.n as n']);
        $tallies = [];
        foreach ($lines as $line) {
            if ($line->getAttribute('outcome') !== null) {
                $tallies[$line->load_id][(string) $line->getAttribute('outcome')] = (int) $line->getAttribute('n');
            }
        }

        return [$lines->unique('id')->values(), $tallies];
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

    /** Rows of an outcome, as kept with every batch. */
    public function rows(Outcome $outcome): int
    {
        return (int) DB::table('tallies')->where('lane_id', $this->round->laneId())->where('outcome', $outcome->value)->sum('n');
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

    /** Whether any row of the lane stands on a record. */
    public function standsAnywhere(): bool
    {
        return DB::table('tallies')
            ->where('lane_id', $this->round->laneId())
            ->whereIn('outcome', [
                Outcome::Loaded->value, Outcome::Updated->value, Outcome::Unchanged->value, Outcome::Merged->value,
            ])
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

    /**
     * @param  list<array{int, string}>  $keys  space and legacy key of each
     * @return array<string, string> "space key" → target key of the row that stands for a record with it
     */
    public function targets(array $keys): array
    {
        if ($keys === []) {
            return [];
        }
        $found = DB::select(
            'SELECT space_id, legacy_key, target_key FROM outcomes FORCE INDEX (crosswalk) WHERE lane_id = ? AND stands = 1
            AND target_key IS NOT NULL AND (space_id, legacy_key) IN ('.implode(',', array_fill(0, count($keys), '(?, ?)')).')',
            [$this->round->laneId(), ...array_merge(...$keys)],
        );

        return array_column(array_map(fn ($r) => ["$r->space_id $r->legacy_key", $r->target_key], $found), 1, 0);
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
        $from = 'outcomes o LEFT JOIN row_causes w ON w.lane_id = o.lane_id AND w.load_id = o.load_id AND w.item = o.item '
            .'LEFT JOIN causes c ON c.id = w.cause_id';
        $own = self::history($from, 'w.cause_id', self::ONE, [
            $this->round->laneId(), $load->id, $row,
        ]);
        $line = $own[0] ?? null;
        if ($line === null) {
            return [];
        }
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
        $parts = $of = [];
        foreach ($now as $line) {
            $parts[] = '('.self::of('outcome_log o LEFT JOIN causes c ON c.id = o.cause_id', 'o.cause_id', self::ONE).')';
            array_push($of, $line->lane_id, $line->load_id, $line->row_no);
        }

        return $parts === [] ? [] : DB::select(implode(' UNION ALL ', $parts), $of);
    }

    /**
     * @param  list<int|string>  $of
     * @return list<\stdClass>
     */
    private static function history(string $from, string $cause, string $where, array $of): array
    {
        return DB::select(self::of($from, $cause, $where), $of);
    }

    private static function of(string $from, string $cause, string $where): string
    {
        $isLog = $cause === 'o.cause_id';

        return "SELECT o.lane_id, o.load_id, o.item AS row_no, o.outcome, o.target_key, $cause AS cause_id, r.id AS round_id,
                r.name AS round, p.number AS pass, c.message, c.code, c.field, c.value, c.stage, c.parent_entity, c.parent_space,
                c.parent_space_id, c.parent_key"
                .($isLog ? ', o.replaced_at' : ', o.legacy_key, o.space_id')
                ." FROM $from JOIN passes p ON p.id = o.pass_id JOIN rounds r ON r.id = p.round_id WHERE $where "
                .'ORDER BY '.($isLog ? 'o.id' : 'o.lane_id').' DESC LIMIT 50';
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

    private function ofLoad(int $load): Builder
    {
        return $this->outcomes()->where('outcomes.load_id', $load);
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
