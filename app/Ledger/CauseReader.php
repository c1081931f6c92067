<?php

namespace App\Ledger;

use Baggage\Core\Loading\Matcher;
use Baggage\Core\Loading\Said;
use Baggage\Core\Rows\Outcome;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** Reads the causes of a lane, and how many rows each keeps out. */
final readonly class CauseReader
{
    private const WITH_REASON = [Outcome::Rejected->value, Outcome::Held->value, Outcome::Excluded->value, Outcome::Waived->value];

    private const BELOW = 'below';

    /** Characters of a message that are kept. */
    private const MESSAGE = 500;

    public function __construct(private int $lane)
    {
    }

    /** @return list<\stdClass> load_id, cause_id, n: rows held for a parent */
    public function waitingFor(int $space, string $key): array
    {
        return DB::table('causes as c')
            ->join('cause_tallies as t', fn ($j) => $j->on('t.cause_id', '=', 'c.id')->where('t.lane_id', $this->lane)
                ->where('t.outcome', Outcome::Held->value)->where('t.n', '>', 0))
            ->where('c.lane_id', $this->lane)->where('c.parent_space_id', $space)->where('c.parent_key', $key)
            ->orderBy('c.load_id')->get(['c.load_id', 'c.id as cause_id', 't.n'])->all();
    }

    /**
     * Rows rejected alike (by load, stage, code and field), and those that wait for them in the end.
     *
     * @param  list<int>  $loads
     * @return list<\stdClass> load_id, stage, code, field, message, n (rows), below, kinds (causes), value
     */
    public function rejectedAlike(array $loads): array
    {
        // Summed within the index; only the first cause of each is read.
        return DB::select(
            "SELECT c.load_id, c.stage, c.code, c.field, c.message, c.value, g.n, g.kinds, COALESCE(b.n, 0) AS below
            FROM (SELECT alike, SUM(n) AS n, COUNT(*) AS kinds, MIN(cause_id) AS first FROM cause_tallies FORCE INDEX (by_alike)
                WHERE lane_id = ? AND outcome = 'rejected' AND n > 0 GROUP BY alike) g
            STRAIGHT_JOIN causes c FORCE INDEX (PRIMARY) ON c.id = g.first
            LEFT JOIN (SELECT alike, SUM(n) AS n FROM cause_tallies FORCE INDEX (by_alike)
                WHERE lane_id = ? AND outcome = 'below' AND n > 0 GROUP BY alike) b ON b.alike = g.alike
            WHERE c.load_id IN (".implode(',', [0, ...$loads]).')',
            [$this->lane, $this->lane],
        );
    }

    /**
     * Rows that were refused a value because a row has it.
     *
     * @param  string  $load  name of the load the row is of
     * @return list<\stdClass> load_id, row_no, field, value
     */
    public function refusedFor(int $ofLoad, string $load, string $key, int $row, int $most): array
    {
        $own = mb_substr(Matcher::takenBy($key, $row, null), 0, self::MESSAGE);
        $others = mb_substr(Matcher::takenBy($key, $row, $load), 0, self::MESSAGE);

        return DB::table('causes as c')
            ->join('row_causes as r', 'r.cause_id', '=', 'c.id')
            ->where('c.lane_id', $this->lane)
            ->where('c.code', Said::TAKEN)
            ->where(fn ($q) => $q
                ->where(fn ($w) => $w->where('c.load_id', $ofLoad)->where('c.message', $own))
                ->orWhere(fn ($w) => $w->where('c.load_id', '<>', $ofLoad)->where('c.message', $others)))
            ->orderBy('c.load_id')
            ->orderBy('r.item')
            ->limit($most)
            ->get(['c.load_id', 'r.item as row_no', 'c.field', 'c.value'])
            ->all();
    }

    /**
     * @param  array{int, int}|null  $after  rows and number of the last one before
     * @param  string  $find  in the value
     * @return list<\stdClass> id, value, message, parent_…, own, held: the values rejected alike, most rows first
     */
    public function values(
        int $load,
        string $stage,
        string $code,
        ?string $field,
        int $most,
        ?array $after = null,
        string $find = '',
    ): array {
        $found = DB::query()
            ->fromRaw('cause_tallies FORCE INDEX (by_alike)')
            ->where('lane_id', $this->lane)
            ->where('outcome', Outcome::Rejected->value)
            ->where('alike', CauseBook::alike($load, $stage, $code, $field))
            ->where('n', '>', 0)
            ->when($after !== null, fn (Builder $q) => $q->whereRaw('(n < ? OR (n = ? AND cause_id > ?))', [
                $after[0] ?? 0, $after[0] ?? 0, $after[1] ?? 0,
            ]))
            ->select('cause_id', 'n as own')
            ->orderByDesc('n')
            ->orderBy('cause_id')
            // Where something is looked for, all of them are.
            ->when($find === '', fn (Builder $q) => $q->limit($most));

        return DB::query()
            ->fromRaw(
                "({$found->toSql()}) t STRAIGHT_JOIN causes c FORCE INDEX (PRIMARY) ON c.id = t.cause_id
                LEFT JOIN cause_tallies b FORCE INDEX (PRIMARY) ON b.lane_id = c.lane_id AND b.cause_id = c.id AND b.outcome = ?",
                [...$found->getBindings(), self::BELOW],
            )
            ->select('c.id', 'c.value', 'c.message', 'c.waive_hash', 'c.parent_entity', 'c.parent_space', 'c.parent_key', 't.own')
            ->selectRaw('COALESCE(b.n, 0) AS held')
            ->when($find !== '', fn (Builder $q) => $q->where('c.value', 'like', '%'.addcslashes($find, '%_\\').'%'))
            ->orderByDesc('own')
            ->orderBy('c.id')
            ->limit($most)
            ->get()
            ->all();
    }

    /**
     * @param  list<int>  $causes
     * @return array<int, int> cause → the first row it rejects
     */
    public function firstRows(array $causes): array
    {
        $parts = array_map(
            fn (int $id) => "(SELECT r.cause_id, r.item FROM row_causes r FORCE INDEX (by_cause)
                STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = r.lane_id AND o.load_id = r.load_id AND o.item = r.item
                WHERE r.cause_id = $id AND o.outcome = 'rejected' ORDER BY r.item LIMIT 1)",
            $causes,
        );

        return $parts === [] ? [] : array_map(
            intval(...),
            array_column(DB::select(implode(' UNION ALL ', $parts)), 'item', 'cause_id'),
        );
    }

    /**
     * @param  list<int>  $causes
     * @return list<int> numbers of some rows they reject, in whatever order
     */
    public function someRows(array $causes, int $most): array
    {
        return $causes === [] ? [] : array_map(fn ($r) => (int) $r->item, DB::select(
            'SELECT r.item FROM row_causes r FORCE INDEX (by_cause)
            STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = r.lane_id AND o.load_id = r.load_id AND o.item = r.item
            WHERE r.cause_id IN ('.implode(',', $causes).") AND o.outcome = 'rejected' LIMIT $most",
        ));
    }

    /**
     * @param  list<int>  $loads
     * @return list<\stdClass> parents that hold rows, most rows first
     */
    public function parentsThatHold(array $loads, int $most): array
    {
        $of = ['c.id', 'c.load_id', 'c.parent_entity', 'c.parent_space', 'c.parent_key', 'c.code'];

        return $this->tallied(Outcome::Held->value)
            ->whereIntegerInRaw('c.load_id', $loads)
            ->select($of)
            ->selectRaw('t.n')
            ->orderByDesc('t.n')
            // In the index as it stands, from its end.
            ->orderByDesc('t.cause_id')
            ->limit($most)
            ->get()
            ->all();
    }

    /**
     * @param  list<int>  $causes  of held rows
     * @return array<int, string> cause → what keeps the parent out in the end
     */
    public function becauseOf(array $causes): array
    {
        $parts = array_map(
            fn (int $id) => "(SELECT w.cause_id, r.message FROM row_causes w JOIN causes r ON r.id = w.root_cause_id
                WHERE w.cause_id = $id LIMIT 1)",
            $causes,
        );

        return $parts === [] ? [] : array_column(DB::select(implode(' UNION ALL ', $parts)), 'message', 'cause_id');
    }

    /**
     * @param  list<int>  $loads
     * @return list<\stdClass> id, load_id, stage, code, field, value, message, waive_hash, n: what people left behind, most rows first
     */
    public function leftBehind(array $loads, int $most): array
    {
        return $this->tallied(Outcome::Waived->value)
            ->whereIntegerInRaw('c.load_id', $loads)
            ->orderByDesc('t.n')
            ->orderBy('c.id')
            ->limit($most)
            ->get(['c.id', 'c.load_id', 'c.stage', 'c.code', 'c.field', 'c.value', 'c.message', 'c.waive_hash', 't.n'])
            ->all();
    }

    /**
     * @param  list<int>  $loads
     * @return list<\stdClass> id, load_id, message, n: what keeps rows outside the scope of their load, most rows first
     */
    public function excluded(array $loads): array
    {
        return $this->tallied(Outcome::Excluded->value)
            ->whereIntegerInRaw('c.load_id', $loads)
            ->orderByDesc('t.n')
            ->orderBy('c.id')
            ->get(['c.id', 'c.load_id', 'c.message', 't.n'])
            ->all();
    }

    /** @return array<string, int> field → rows of the load it rejected */
    public function rejectedByField(int $load): array
    {
        return $this->tallied(Outcome::Rejected->value)
            ->where('c.load_id', $load)
            ->groupBy('c.field')
            ->selectRaw('c.field, SUM(t.n) AS n')
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

    /** @return list<string> values of some causes, each once */
    public function valuesOf(CauseSet $causes, int $load, int $most): array
    {
        return $causes->query($this->lane, $load)
            ->whereNotNull('value')
            ->whereIn('id', DB::table('cause_tallies')->where('lane_id', $this->lane)->where('outcome', Outcome::Rejected->value)
                ->where('n', '>', 0)->select('cause_id'))
            ->distinct()
            ->orderBy('value')
            ->limit($most)
            ->pluck('value')
            ->map(strval(...))
            ->all();
    }

    /**
     * What rows failed for, as the log says it.
     *
     * @param  list<int>  $ids
     */
    public function words(array $ids): string
    {
        $first = array_values($this->byId(array_slice($ids, 0, 3)));
        $words = array_map(fn ($c) => trim("$c->field: $c->message".($c->value === null ? '' : " ($c->value)"), ': '), $first);

        return implode('; ', $words).(count($ids) > 3 ? ' and '.(count($ids) - 3).' more' : '');
    }

    /** Rows a cause keeps out, as tallied. */
    public static function rows(int $lane, int $cause, Outcome $outcome): int
    {
        return (int) DB::table('cause_tallies')
            ->where('lane_id', $lane)
            ->where('cause_id', $cause)
            ->where('outcome', $outcome->value)
            ->value('n');
    }

    /** @return list<\stdClass> stage, code, field, outcome, n (rows), kinds (values): why rows of a load were left out, most rows first */
    public function groups(int $load): array
    {
        return $this->withReason($load)
            ->groupBy('c.stage', 'c.code', 'c.field', 't.outcome')
            ->selectRaw('c.stage, c.code, c.field, t.outcome, SUM(t.n) AS n, COUNT(*) AS kinds, MIN(c.id) AS first')
            ->orderByDesc('n')
            ->orderBy('first')
            ->get()
            ->all();
    }

    /** @return list<\stdClass> stage, code, field, outcome, value, message, waive_hash, n: the largest of each of the groups() */
    public function largest(int $load, int $most): array
    {
        $ranked = $this->withReason($load)
            ->select('c.stage', 'c.code', 'c.field', 't.outcome', 'c.value', 'c.message', 'c.waive_hash', 't.n', 'c.id')
            ->selectRaw('ROW_NUMBER() OVER (PARTITION BY c.stage, c.code, c.field, t.outcome ORDER BY t.n DESC, c.id) AS place');

        return DB::query()->fromSub($ranked, 'r')->where('place', '<=', $most)->orderByDesc('n')->orderBy('id')->get()->all();
    }

    private function withReason(int $load): Builder
    {
        return DB::query()
            ->fromRaw('cause_tallies t FORCE INDEX (by_outcome) STRAIGHT_JOIN causes c FORCE INDEX (PRIMARY) ON c.id = t.cause_id')
            ->where('t.lane_id', $this->lane)
            ->where('c.load_id', $load)
            ->where('t.n', '>', 0)
            ->whereIn('t.outcome', self::WITH_REASON);
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
            ->where('lane_id', $this->lane)
            ->where('load_id', $load)
            ->when($fields !== null, fn (Builder $q) => $q->whereIn('field', $fields))
            ->when($codes !== null, fn (Builder $q) => $q->whereIn('code', $codes))
            ->when($values !== null, fn (Builder $q) => $q->whereIn('value', $values));
    }

    /** Causes with as many rows of an outcome as were tallied: of those alone, whatever waits for other reasons. */
    private function tallied(string $outcome): Builder
    {
        return DB::query()
            ->fromRaw('cause_tallies t FORCE INDEX (by_outcome) STRAIGHT_JOIN causes c FORCE INDEX (PRIMARY) ON c.id = t.cause_id')
            ->where('t.lane_id', $this->lane)
            ->where('t.outcome', $outcome)
            ->where('t.n', '>', 0);
    }
}
