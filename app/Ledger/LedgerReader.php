<?php

namespace App\Ledger;

use App\Models\Load;
use App\Models\Round;
use Baggage\Core\Rows\Outcome;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Collection;
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
            ->map(intval(...))
            ->all();
    }

    /** @return array<string, int> field → rows it rejected */
    public function rejectedByField(Load $load): array
    {
        return $this->ofLoad($load)
            ->join('causes', 'causes.id', '=', 'outcomes.cause_id')
            ->where('outcomes.outcome', Outcome::Rejected->value)
            ->groupBy('causes.field')
            ->selectRaw('causes.field, COUNT(*) AS n')
            ->pluck('n', 'field')
            ->all();
    }

    /**
     * @param  array<int>  $ids
     * @return Collection<int, \stdClass> by id
     */
    public function causes(array $ids): Collection
    {
        return DB::table('causes')->whereIn('id', array_filter($ids))->get()->keyBy('id');
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

    public function line(int $entity, int $source, string $key): ?\stdClass
    {
        return $this->outcomes()
            ->where('entity_id', $entity)
            ->where('source_id', $source)
            ->where('legacy_key', $key)
            ->first();
    }

    /** @return list<\stdClass> references set later: by load and field, how many were made and how many wait */
    public function links(): array
    {
        return DB::select(
            "SELECT load_id, field, SUM(state = 'made') AS made, SUM(state = 'waiting') AS waiting
            FROM links WHERE round_id = ? GROUP BY load_id, field",
            [$this->round->id],
        );
    }

    /** @return list<\stdClass> */
    public function linksOf(Load $load, int $row): array
    {
        return DB::select(
            'SELECT field, parent_key, state FROM links WHERE round_id = ? AND load_id = ? AND row_no = ?',
            [$this->round->id, $load->id, $row],
        );
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
