<?php

namespace App\Ledger;

use Baggage\Core\Rows\Outcome;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** Reads the causes of a round, and how many rows each keeps out. */
final readonly class CauseReader
{
    private const WITH_REASON = [Outcome::Rejected->value, Outcome::Held->value, Outcome::Excluded->value, Outcome::Waived->value];

    public function __construct(private int $round)
    {
    }

    /**
     * Rows rejected alike: by load, stage, code and field.
     *
     * @param  list<int>  $loads
     * @return list<\stdClass> load_id, stage, code, field, message, n (rows), kinds (causes), value
     */
    public function rejectedAlike(array $loads): array
    {
        return $this->rows(Outcome::Rejected, 'cause_id')
            ->whereIntegerInRaw('o.load_id', $loads)
            ->groupBy('c.load_id', 'c.stage', 'c.code', 'c.field')
            ->selectRaw('c.load_id, c.stage, c.code, c.field, MIN(c.message) AS message')
            ->selectRaw('COUNT(*) AS n, COUNT(DISTINCT c.id) AS kinds, MIN(c.value) AS value')
            ->get()
            ->all();
    }

    /**
     * Rows that wait, in the end, for rows rejected alike.
     *
     * @param  list<int>  $loads  of the rejected rows
     * @return list<\stdClass> load_id, stage, code, field, n
     */
    public function heldAlike(array $loads): array
    {
        return $this->rows(Outcome::Held, 'root_cause_id')
            ->whereIntegerInRaw('c.load_id', $loads)
            ->groupBy('c.load_id', 'c.stage', 'c.code', 'c.field')
            ->selectRaw('c.load_id, c.stage, c.code, c.field, COUNT(*) AS n')
            ->get()
            ->all();
    }

    /** @return list<\stdClass> id, value, message, parent_…, own, held: the values rejected alike, most rows first */
    public function values(int $load, string $stage, string $code, ?string $field, int $most): array
    {
        return $this->rows(Outcome::Rejected, 'cause_id')
            ->where('o.load_id', $load)
            ->where('c.stage', $stage)
            ->where('c.code', $code)
            ->whereRaw('c.field <=> ?', [$field])
            ->groupBy('c.id', 'c.value', 'c.message', 'c.parent_entity', 'c.parent_source', 'c.parent_key')
            ->select('c.id', 'c.value', 'c.message', 'c.parent_entity', 'c.parent_source', 'c.parent_key')
            ->selectRaw('COUNT(*) AS own')
            ->selectRaw(
                '(SELECT COUNT(*) FROM outcomes h WHERE h.root_cause_id = c.id AND h.outcome = ?) AS held',
                [Outcome::Held->value],
            )
            ->orderByDesc('own')
            ->orderBy('c.value')
            ->limit($most)
            ->get()
            ->all();
    }

    /**
     * @param  list<int>  $loads
     * @return list<\stdClass> parents that hold rows, most rows first, and why they do
     */
    public function parentsThatHold(array $loads, int $most): array
    {
        $of = ['c.id', 'c.load_id', 'c.parent_entity', 'c.parent_source', 'c.parent_key', 'c.code'];

        return $this->rows(Outcome::Held, 'cause_id')
            ->leftJoin('causes as r', 'r.id', '=', 'o.root_cause_id')
            ->whereIntegerInRaw('o.load_id', $loads)
            ->groupBy(...$of, ...['r.message'])
            ->select($of)
            ->selectRaw('r.message AS because, COUNT(*) AS n, MIN(o.row_no) AS first_row')
            ->orderByDesc('n')
            ->orderBy('c.id')
            ->limit($most)
            ->get()
            ->all();
    }

    /** @return array<string, int> field → rows of the load it rejected */
    public function rejectedByField(int $load): array
    {
        return $this->rows(Outcome::Rejected, 'cause_id')
            ->where('o.load_id', $load)
            ->groupBy('c.field')
            ->selectRaw('c.field, COUNT(*) AS n')
            ->pluck('n', 'field')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    /**
     * @param  array<int|null>  $ids
     * @return array<int, \stdClass> by id
     */
    public function byId(array $ids): array
    {
        return DB::table('causes')->whereIntegerInRaw('id', array_filter($ids))->get()->keyBy('id')->all();
    }

    /** @return list<\stdClass> stage, code, field, value, message, outcome, n: why rows of a load were left out, most rows first */
    public function largest(int $load, int $most): array
    {
        $of = ['c.stage', 'c.code', 'c.field', 'c.value', 'c.message', 'o.outcome'];

        return DB::table('outcomes as o')
            ->join('causes as c', 'c.id', '=', 'o.cause_id')
            ->where('o.round_id', $this->round)
            ->where('o.load_id', $load)
            ->whereIn('o.outcome', self::WITH_REASON)
            ->groupBy('c.id', ...$of)
            ->select($of)
            ->selectRaw('COUNT(*) AS n')
            ->orderByDesc('n')
            ->orderBy('c.id')
            ->limit($most)
            ->get()
            ->all();
    }

    /**
     * A query for the numbers of causes of a load, for LedgerWriter::causesWait.
     *
     * @param  list<string>|null  $fields  null: any
     * @param  list<string>|null  $codes  of the cause; null: any
     * @param  list<string>|null  $values  null: any
     */
    public function about(int $load, ?array $fields, ?array $codes = null, ?array $values = null): Builder
    {
        return DB::table('causes')
            ->select('id')
            ->where('round_id', $this->round)
            ->where('load_id', $load)
            ->when($fields !== null, fn (Builder $q) => $q->whereIn('field', $fields))
            ->when($codes !== null, fn (Builder $q) => $q->whereIn('code', $codes))
            ->when($values !== null, fn (Builder $q) => $q->whereIn('value', $values));
    }

    /** @param  'cause_id'|'root_cause_id'  $by */
    private function rows(Outcome $outcome, string $by): Builder
    {
        return DB::table('outcomes as o')
            ->join('causes as c', 'c.id', '=', "o.$by")
            ->where('o.round_id', $this->round)
            ->where('o.outcome', $outcome->value);
    }
}
