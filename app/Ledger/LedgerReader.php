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
    private const LINE = ['load_id', 'row_no', 'legacy_key', 'outcome', 'target_key', 'cause_id'];

    private const WITH_NAMES = [
        'o.load_id', 'o.row_no', 'o.legacy_key', 'o.outcome', 'o.target_key', 'e.name as entity', 's.code as source', 'l.name as load_name',
    ];

    public function __construct(private Round $round)
    {
    }

    /** @return list<\stdClass> lines of a load with a row number above $after, in row order */
    public function lines(Load $load, int $after, ?Outcome $outcome, ?int $cause, int $most): array
    {
        return $this->ofLoad($load)
            ->where('row_no', '>', $after)
            ->when($outcome !== null, fn ($q) => $q->where('outcome', $outcome?->value))
            ->when($cause !== null, fn ($q) => $q->where('cause_id', $cause))
            ->orderBy('row_no')
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
            ->where('outcome', Outcome::Rejected->value)
            ->whereIntegerInRaw('cause_id', $causes)
            ->orderBy('row_no')
            ->limit($most)
            ->get(self::LINE)
            ->all();
    }

    /** @return list<int> the first row of some causes each */
    public function oneOfEachCause(Load $load, int $most): array
    {
        return $this->ofLoad($load)
            ->where('outcome', Outcome::Rejected->value)
            ->groupBy('cause_id')
            ->selectRaw('MIN(row_no) AS row_no')
            ->limit($most)
            ->pluck('row_no')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    /**
     * Lines with one of the legacy keys, and those with the target key.
     *
     * @param  list<int>  $entities
     * @param  list<int>  $sources
     * @param  list<string>  $keys
     * @return list<\stdClass>
     */
    public function withKey(array $entities, array $sources, array $keys, string $target, int $most): array
    {
        $base = fn () => $this->outcomes()->whereIn('entity_id', $entities)->select(self::LINE)->limit($most);
        $rows = $base()
            ->whereIn('source_id', $sources)
            ->whereIn('legacy_key', $keys)
            ->get()
            ->concat($base()->where('target_key', $target)->get());

        return array_values($rows->unique(fn ($r) => "$r->load_id:$r->row_no")->all());
    }

    /**
     * The key crosswalk from its beginning.
     *
     * @param  list<int>  $entities
     * @return list<\stdClass>
     */
    public function crosswalk(array $entities, int $most): array
    {
        return $this->named($entities, $most)
            ->whereNotNull('o.target_key')
            ->orderBy('o.round_id')
            ->orderBy('o.load_id')
            ->orderBy('o.row_no')
            ->get()
            ->all();
    }

    /**
     * Lines whose legacy key begins so, and those with the whole target key.
     *
     * @param  list<int>  $entities
     * @param  list<int>  $sources
     * @return list<\stdClass>
     */
    public function beginningWith(array $entities, array $sources, string $key, string $target, int $most): array
    {
        $rows = $this->named($entities, $most)
            ->whereIn('o.source_id', $sources)
            ->where('o.legacy_key', 'like', addcslashes($key, '%_\\').'%')
            ->get()
            ->concat($this->named($entities, $most)->where('o.target_key', $target)->get());

        return array_values($rows->unique(fn ($r) => "$r->load_id:$r->row_no")->all());
    }

    /**
     * @param  list<string>  $keys  legacy keys
     * @return list<array{string, string, string|null, int, int, int|null}> key, outcome, target key, load, row, the cause that in
     *                                                                      the end keeps it out
     */
    public function keys(int $entity, int $source, array $keys): array
    {
        // Asked for every batch: without the query builder, which makes an object of every row.
        $pdo = DB::connection()->getPdo();
        $found = $pdo->query(
            "SELECT legacy_key, outcome, target_key, load_id, row_no, COALESCE(root_cause_id, cause_id) FROM outcomes
            WHERE round_id = {$this->round->id} AND entity_id = $entity AND source_id = $source
            AND legacy_key IN (".implode(',', array_map($pdo->quote(...), $keys)).')',
        );

        return $found === false ? [] : $found->fetchAll(\PDO::FETCH_NUM);
    }

    public function hasKeysOf(int $entity, int $source): bool
    {
        return $this->outcomes()->where('entity_id', $entity)->where('source_id', $source)->exists();
    }

    /**
     * Rows a retry takes: those that wait, and those held by a parent that has a target key now.
     *
     * @return list<int>
     */
    public function due(int $load, int $after, int $most): array
    {
        $migration = $this->round->migration_id;
        $rows = DB::select(
            '(SELECT row_no FROM outcomes WHERE round_id = ? AND load_id = ? AND outcome = ? AND row_no > ?
            ORDER BY row_no LIMIT ?)
            UNION
            (SELECT h.row_no FROM outcomes h FORCE INDEX (by_outcome) STRAIGHT_JOIN causes c ON c.id = h.cause_id
                STRAIGHT_JOIN entities e ON e.migration_id = ? AND e.name = c.parent_entity
                STRAIGHT_JOIN sources s ON s.migration_id = ? AND s.code = c.parent_source
                STRAIGHT_JOIN outcomes p FORCE INDEX (crosswalk) ON p.round_id = h.round_id AND p.entity_id = e.id AND p.source_id = s.id
                AND p.legacy_key = c.parent_key AND p.twin = 0
                WHERE h.round_id = ? AND h.load_id = ? AND h.outcome = ? AND h.row_no > ? ORDER BY h.row_no LIMIT ?)
            ORDER BY row_no LIMIT ?',
            [
                ...[$this->round->id, $load, Outcome::Pending->value, $after, $most],
                ...[$migration, $migration, $this->round->id, $load, Outcome::Held->value, $after, $most],
                $most,
            ],
        );

        return array_map(fn ($r) => (int) $r->row_no, $rows);
    }

    /** @return list<int> numbers of rows rejected for a cause, those above $after */
    public function rejectedFor(Load $load, int $cause, int $after, int $most): array
    {
        return $this->ofLoad($load)
            ->where('cause_id', $cause)
            ->where('outcome', Outcome::Rejected->value)
            ->where('row_no', '>', $after)
            ->orderBy('row_no')
            ->limit($most)
            ->pluck('row_no')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    /** @return array<int, array<string, int>> load → outcome → rows, counted line by line */
    public function counted(): array
    {
        return self::byLoad($this->outcomes()->groupBy('load_id', 'outcome')->selectRaw('load_id, outcome, COUNT(*) AS n'));
    }

    /** @return array<int, array<string, int>> load → outcome → rows, as kept with every batch */
    public function tallies(): array
    {
        return self::byLoad(
            DB::table('tallies')->where('round_id', $this->round->id)->where('n', '<>', 0)->select('load_id', 'outcome', 'n'),
        );
    }

    public function line(int $entity, int $source, string $key): ?\stdClass
    {
        return $this->outcomes()
            ->where('entity_id', $entity)
            ->where('source_id', $source)
            ->where('legacy_key', $key)
            ->first();
    }

    /** Whether any round has an outcome of the load. */
    public static function knows(int $load): bool
    {
        return DB::table('outcomes')->where('load_id', $load)->exists();
    }

    /** @return list<\stdClass> what the row is now in every round of the migration, the newest first */
    public static function now(Load $load, int $row): array
    {
        return self::history('outcomes', 'o.round_id', $load, $row);
    }

    /** @return list<\stdClass> what the row was before in every round of the migration, the newest first */
    public static function before(Load $load, int $row): array
    {
        return self::history('outcome_log', 'o.id', $load, $row);
    }

    /** @return list<\stdClass> */
    private static function history(string $table, string $order, Load $load, int $row): array
    {
        return DB::select(
            "SELECT o.*, r.name AS round, p.number AS pass, c.message, c.field, c.value, c.stage, c.parent_entity,
                c.parent_source, c.parent_key
            FROM $table o JOIN rounds r ON r.id = o.round_id JOIN passes p ON p.id = o.pass_id
            LEFT JOIN causes c ON c.id = o.cause_id
            WHERE o.round_id IN (SELECT id FROM rounds WHERE migration_id = ?) AND o.load_id = ? AND o.row_no = ?
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

    private function outcomes(): Builder
    {
        return DB::table('outcomes')->where('outcomes.round_id', $this->round->id);
    }

    private function ofLoad(Load $load): Builder
    {
        return $this->outcomes()->where('outcomes.load_id', $load->id);
    }

    /** @param  list<int>  $entities */
    private function named(array $entities, int $most): Builder
    {
        return DB::table('outcomes as o')
            ->join('loads as l', 'l.id', '=', 'o.load_id')
            ->join('entities as e', 'e.id', '=', 'o.entity_id')
            ->join('sources as s', 's.id', '=', 'o.source_id')
            ->where('o.round_id', $this->round->id)
            ->whereIn('o.entity_id', $entities)
            ->select(self::WITH_NAMES)
            ->limit($most);
    }
}
