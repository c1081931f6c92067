<?php

namespace App\Ledger;

use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Facades\DB;

/** Which rows of a load a dry run tries: gathered when its parents are through, and read in row order. */
final readonly class DryTries
{
    private const LEFT_OUT = "('rejected','held','excluded')";

    private const AT_ONCE = 10_000;

    public function __construct(private int $run, private ?int $lane)
    {
    }

    /** What a pass over everything that is due would take. */
    public function due(LedgerReader $ledger, int $load, ?Only $only): void
    {
        $due = fn (int $after) => $ledger->due(0, $load, $after, self::AT_ONCE, null, $only, PHP_INT_MAX);
        for ($after = 0; ($rows = $due($after)) !== []; $after = end($rows)) {
            $this->rows($load, $rows);
        }
    }

    /** @param  array<int>  $rows */
    public function rows(int $load, array $rows): void
    {
        foreach (array_chunk($rows, 5000) as $some) {
            DB::table('dry_tries')->insertOrIgnore(
                array_map(fn (int $row) => ['dry_run_id' => $this->run, 'load_id' => $load, 'item' => $row], $some),
            );
        }
    }

    /** Rows left out for some causes. */
    public function causes(int $load, CauseSet $causes): void
    {
        $of = $causes->query((int) $this->lane, $load)->select('id');
        DB::statement(
            "INSERT IGNORE INTO dry_tries SELECT ?, o.load_id, o.item FROM ({$of->toSql()}) c
            STRAIGHT_JOIN row_causes r FORCE INDEX (by_cause) ON r.cause_id = c.id
            STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = r.lane_id AND o.load_id = r.load_id AND o.item = r.item
            WHERE r.lane_id = ? AND r.load_id = ? AND o.outcome IN ".self::LEFT_OUT,
            [$this->run, ...$of->getBindings(), $this->lane, $load],
        );
    }

    /**
     * Rows of the same numbers in another load that reads the same take, where they were left out.
     *
     * @param  int  $of  the load whose rows are tried already
     */
    public function besides(int $load, int $of): void
    {
        DB::statement(
            'INSERT IGNORE INTO dry_tries SELECT ?, o.load_id, o.item FROM dry_tries t
            STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = ? AND o.load_id = ? AND o.item = t.item
            WHERE t.dry_run_id = ? AND t.load_id = ? AND o.outcome IN '.self::LEFT_OUT,
            [$this->run, $this->lane, $load, $this->run, $of],
        );
    }

    /**
     * Rows left out for a parent, or a key they looked for, that would have a record, as a pass takes them along.
     *
     * @param  bool  $andLeft  also those whose parent would be left behind: they are due once that is decided
     */
    public function freed(int $load, bool $andLeft): void
    {
        DB::statement(
            'INSERT IGNORE INTO dry_tries SELECT DISTINCT ?, o.load_id, o.item FROM causes c FORCE INDEX (one)
            STRAIGHT_JOIN dry_rows d FORCE INDEX (crosswalk) ON d.dry_run_id = ? AND d.space_id = c.parent_space_id
            AND d.legacy_key = c.parent_key
            STRAIGHT_JOIN row_causes r FORCE INDEX (by_cause) ON r.cause_id = c.id
            STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = r.lane_id AND o.load_id = r.load_id AND o.item = r.item
            WHERE c.lane_id = ? AND c.load_id = ? AND (d.stands = 1 OR (? AND d.outcome = ?)) AND o.outcome IN '.self::LEFT_OUT,
            [$this->run, $this->run, $this->lane, $load, (int) $andLeft, Outcome::Waived->value],
        );
    }

    /**
     * Rows of a load that finds its records by key which changed records after some of its rows.
     *
     * @param  array<int, string>  $changed  row → target key of the record it would change
     * @return list<int>
     */
    public function laterOnes(int $load, array $changed): array
    {
        $first = [];
        foreach ($changed as $row => $key) {
            $first[$key] = min($row, $first[$key] ?? $row);
        }

        return $first === [] || $this->lane === null ? [] : DB::table('outcomes')->forceIndex('target')
            ->where('lane_id', $this->lane)->where('load_id', $load)->whereIn('target_key', array_map(strval(...), array_keys($first)))
            ->whereNull('stands')->whereIn('outcome', [Outcome::Updated->value, Outcome::Unchanged->value])->get(['item', 'target_key'])
            ->filter(fn (\stdClass $o) => $o->item > $first[$o->target_key] && ! isset($changed[$o->item]))
            ->pluck('item')->map(fn ($item) => (int) $item)->values()->all();
    }

    /** @return list<int> those after a row, in row order */
    public function after(int $load, int $after, int $most): array
    {
        return DB::table('dry_tries')
            ->where('dry_run_id', $this->run)
            ->where('load_id', $load)
            ->where('item', '>', $after)
            ->orderBy('item')
            ->limit($most)
            ->pluck('item')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    /**
     * @param  list<int>  $rows
     * @return list<int> those of the rows that were left out for one of the causes
     */
    public function among(int $load, CauseSet $causes, array $rows): array
    {
        return $rows === [] ? [] : DB::table('row_causes')
            ->where('lane_id', $this->lane)
            ->where('load_id', $load)
            ->whereIntegerInRaw('item', $rows)
            ->whereIn('cause_id', $causes->query((int) $this->lane, $load)->select('id'))
            ->pluck('item')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    public function count(int $load): int
    {
        return DB::table('dry_tries')->where('dry_run_id', $this->run)->where('load_id', $load)->count();
    }

    /**
     * What the ledger says of rows.
     *
     * @param  list<int>  $rows
     * @return array<int, \stdClass> by row: outcome, target_key, sent_hash in hexadecimal, code, field, value
     */
    public function before(int $load, array $rows): array
    {
        return $this->lane === null || $rows === [] ? [] : DB::table('outcomes as o')
            ->leftJoin('row_causes as r', fn ($j) => $j
                ->on('r.lane_id', '=', 'o.lane_id')
                ->on('r.load_id', '=', 'o.load_id')
                ->on('r.item', '=', 'o.item'))
            ->leftJoin('causes as c', 'c.id', '=', 'r.cause_id')
            ->where('o.lane_id', $this->lane)
            ->where('o.load_id', $load)
            ->whereIntegerInRaw('o.item', $rows)
            ->get(['o.item', 'o.outcome', 'o.target_key', DB::raw('LOWER(HEX(o.sent_hash)) AS sent_hash'), 'c.code', 'c.field', 'c.value'])
            ->keyBy('item')
            ->all();
    }

    /**
     * Rows of an entity that stand on records, or of a number.
     *
     * @param  list<string>  $keys  target keys
     * @param  list<array{int, int}>  $rows  load and number
     * @return list<\stdClass> load_id, row_no, space_id, legacy_key, outcome
     */
    public function standing(int $entity, array $keys, array $rows): array
    {
        $of = fn () => DB::table('outcomes as o')
            ->join('loads as l', fn ($j) => $j->on('l.id', '=', 'o.load_id')->where('l.entity_id', $entity))
            ->where('o.lane_id', $this->lane)
            ->where('o.outcome', '<>', Outcome::Removed->value)
            ->select('o.load_id', 'o.item as row_no', 'o.space_id', 'o.legacy_key', 'o.outcome');
        $found = $this->lane === null || $keys === [] ? [] : $of()->whereIn('o.target_key', $keys)->get()->all();
        foreach ($this->lane === null ? [] : $rows as [$load, $row]) {
            array_push($found, ...$of()->where('o.load_id', $load)->where('o.item', $row)->get()->all());
        }

        return $found;
    }

    /**
     * Rows of a lane that are other than the run said.
     *
     * @return list<\stdClass> said, is, n, because: the first message of those that did not go through
     */
    public function otherwise(int $lane): array
    {
        return DB::select(
            'SELECT d.outcome AS said, o.outcome AS `is`, COUNT(*) AS n, MIN(c.message) AS because FROM dry_rows d
            STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = ? AND o.load_id = d.load_id AND o.item = d.item
            LEFT JOIN row_causes r ON r.lane_id = o.lane_id AND r.load_id = o.load_id AND r.item = o.item
            LEFT JOIN causes c ON c.id = r.cause_id
            WHERE d.dry_run_id = ? AND d.outcome <> o.outcome GROUP BY d.outcome, o.outcome ORDER BY n DESC',
            [$lane, $this->run],
        );
    }
}
