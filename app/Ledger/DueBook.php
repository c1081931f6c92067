<?php

namespace App\Ledger;

use Baggage\Core\Rows\CorrectionState;
use Baggage\Core\Rows\Outcome;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/**
 * Rows of a lane that may fare otherwise than they did, and records that may be other than they would be made now. Kept per load
 * and cause, and per row where a correction concerns it; App\Loading\WorkOutDue works them out.
 */
final readonly class DueBook
{
    private const LEFT_OUT = [Outcome::Rejected->value, Outcome::Held->value, Outcome::Excluded->value];

    private const CAUSES_AT_ONCE = 2_000;

    private const STAND = [Outcome::Loaded->value, Outcome::Updated->value, Outcome::Unchanged->value, Outcome::Merged->value];

    public function __construct(private int $lane)
    {
    }

    /** @return array<int, int> load → rows that are due, without those that were not asked for */
    public function counts(): array
    {
        return DB::query()
            ->fromSub(
                $this->perLoad('due_causes', 'SUM(n)')->unionAll($this->perLoad('due_rows', 'COUNT(*)')),
                'd',
            )
            ->groupBy('load_id')
            ->selectRaw('load_id, SUM(n) AS n')
            ->pluck('n', 'load_id')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    private function perLoad(string $table, string $n): Builder
    {
        return DB::table($table)->where('lane_id', $this->lane)->groupBy('load_id')->selectRaw("load_id, $n AS n");
    }

    /**
     * @param  list<int>  $loads
     * @return array<string, int> load, stage, code and field → rejected rows that are due
     */
    public function alike(array $loads): array
    {
        $byCause = DB::table('due_causes as d')
            ->join('causes as c', 'c.id', '=', 'd.cause_id')
            ->where('d.lane_id', $this->lane)
            ->whereIntegerInRaw('d.load_id', $loads)
            ->groupBy('c.load_id', 'c.stage', 'c.code', 'c.field')
            ->selectRaw('c.load_id, c.stage, c.code, c.field, SUM(d.n) AS n');
        $byRow = DB::table('due_rows as d')
            ->join('row_causes as r', fn ($j) => $j
                ->on('r.lane_id', '=', 'd.lane_id')
                ->on('r.load_id', '=', 'd.load_id')
                ->on('r.item', '=', 'd.item'))
            ->join('causes as c', 'c.id', '=', 'r.cause_id')
            ->where('d.lane_id', $this->lane)
            ->whereIntegerInRaw('d.load_id', $loads)
            ->groupBy('c.load_id', 'c.stage', 'c.code', 'c.field')
            ->selectRaw('c.load_id, c.stage, c.code, c.field, COUNT(*) AS n');
        $due = [];
        foreach ($byCause->unionAll($byRow)->get() as $row) {
            $alike = "$row->load_id|$row->stage|$row->code|$row->field";
            $due[$alike] = ($due[$alike] ?? 0) + (int) $row->n;
        }

        return $due;
    }

    /** @return array<int, array{int, int}> load → at most so many records by rules and codes, so many by corrections */
    public function stale(): array
    {
        return DB::table('stale_rows')
            ->where('lane_id', $this->lane)
            ->get()
            ->mapWithKeys(fn ($r) => [(int) $r->load_id => [(int) $r->by_rule, (int) $r->by_correction]])
            ->all();
    }

    /**
     * Rows left out, by cause and by the pass that left them out, some thousand causes at a time.
     *
     * @param  bool  $andHeld  also those that wait for a parent
     * @return \Generator<list<\stdClass>> cause_id, pass_id, outcome, n, stage, code, field, value, parent_entity, parent_space, parent_key
     */
    public function leftOut(int $load, bool $andHeld = true): \Generator
    {
        $held = $andHeld ? '' : " AND code NOT IN ('parent_rejected', 'parent_held', 'parent_pending')";
        for ($after = 0; ; $after = (int) array_key_last($causes)) {
            $causes = array_column(DB::select(
                "SELECT id, stage, code, field, value, parent_entity, parent_space, parent_key FROM causes FORCE INDEX (PRIMARY)
                WHERE id > ? AND lane_id = ? AND load_id = ?$held ORDER BY id LIMIT ".self::CAUSES_AT_ONCE,
                [$after, $this->lane, $load],
            ), null, 'id');
            if ($causes === []) {
                return;
            }
            $found = [];
            foreach ($this->countsOf(array_keys($causes)) as $of) {
                $found[] = (object) ((array) $of + (array) $causes[$of->cause_id]);
            }
            yield $found;
        }
    }

    /**
     * @param  list<int>  $causes
     * @return list<\stdClass> cause_id, pass_id, outcome, n
     */
    private function countsOf(array $causes): array
    {
        return DB::select(
            'SELECT r.cause_id, o.pass_id, o.outcome, COUNT(*) AS n FROM row_causes r FORCE INDEX (by_cause)
            STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = r.lane_id AND o.load_id = r.load_id AND o.item = r.item
            WHERE r.cause_id IN ('.implode(',', $causes).') AND o.outcome IN (?, ?, ?)
            GROUP BY r.cause_id, o.pass_id, o.outcome',
            self::LEFT_OUT,
        );
    }

    /** @return array<int, int> pass → rows of the load that stand for a record since it */
    public function standing(int $load): array
    {
        return DB::table('outcomes')
            ->where('lane_id', $this->lane)
            ->where('load_id', $load)
            ->whereIn('outcome', self::STAND)
            ->groupBy('pass_id')
            ->selectRaw('pass_id, COUNT(*) AS n')
            ->pluck('n', 'pass_id')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    /**
     * @param  list<array{int, int, int}>  $causes  cause, pass, rows that are due for it
     * @param  int  $byRule  records that may be stale
     */
    public function put(int $load, int $take, array $causes, int $byRule): void
    {
        DB::transaction(function () use ($load, $take, $causes, $byRule) {
            $asked = DB::table('due_causes')->where('lane_id', $this->lane)->where('load_id', $load)->where('asked', 1)->get();
            $this->forget($load, false);
            foreach (array_chunk($causes, 1000) as $some) {
                DB::table('due_causes')->insert(array_map(
                    fn (array $c) => ['lane_id' => $this->lane, 'load_id' => $load, 'cause_id' => $c[0], 'pass_id' => $c[1], 'n' => $c[2]],
                    $some,
                ));
            }
            foreach ($asked as $cause) {
                $this->ask($load, (int) $cause->cause_id, (int) $cause->pass_id);
            }
            DB::table('due_rows')->insertOrIgnoreUsing(
                ['lane_id', 'load_id', 'item'],
                $this->corrected($load, $take, [...self::LEFT_OUT, Outcome::Waived->value])
                    ->distinct()
                    ->select('o.lane_id', 'o.load_id', 'o.item'),
            );
            $this->waiversEnded($load);
            $pairs = PairBook::since($this->lane, $load, $take)->get();
            foreach ($pairs->chunk(1000) as $some) {
                DB::table('due_rows')->insertOrIgnore($some->map(fn ($r) => (array) $r)->values()->all());
            }
            $this->onceOnly($load);
            DB::table('stale_rows')->insert([
                'lane_id' => $this->lane,
                'load_id' => $load,
                'by_rule' => $byRule,
                'by_correction' => $this->corrected($load, $take, self::STAND)->distinct()->count('o.item'),
            ]);
        });
    }

    /** Somebody wants the rows of a cause tried again whatever changed: @return int how many */
    public function ask(int $load, int $cause, ?int $pass = null): int
    {
        $rows = DB::table('row_causes as r')
            ->join('outcomes as o', fn ($j) => $j
                ->on('o.lane_id', '=', 'r.lane_id')
                ->on('o.load_id', '=', 'r.load_id')
                ->on('o.item', '=', 'r.item'))
            ->where('r.lane_id', $this->lane)
            ->where('r.load_id', $load)
            ->where('r.cause_id', $cause)
            ->where('o.outcome', Outcome::Rejected->value)
            ->when($pass !== null, fn (Builder $q) => $q->where('o.pass_id', $pass))
            ->groupBy('o.pass_id')
            ->selectRaw('o.pass_id, COUNT(*) AS n')
            ->pluck('n', 'pass_id');
        foreach ($rows as $of => $n) {
            DB::table('due_causes')->upsert(
                [['lane_id' => $this->lane, 'load_id' => $load, 'cause_id' => $cause, 'pass_id' => $of, 'n' => $n, 'asked' => 1]],
                ['lane_id', 'load_id', 'cause_id', 'pass_id'],
                ['n', 'asked'],
            );
        }
        $this->onceOnly($load);

        return (int) $rows->sum();
    }

    /**
     * Has the records of rows written again though nothing these say changed, once, by the next pass that comes to them.
     *
     * @param  list<int>  $items
     * @return int how many of them stand for a record they wrote
     */
    public function writeAgain(int $load, array $items): int
    {
        if ($items === []) {
            return 0;
        }
        DB::affectingStatement(
            'INSERT INTO due_rows (lane_id, load_id, item, pass_id)
            SELECT lane_id, load_id, item, pass_id FROM outcomes FORCE INDEX (PRIMARY)
            WHERE lane_id = ? AND load_id = ? AND item IN ('.implode(',', $items).') AND outcome IN (?, ?, ?)
            ON DUPLICATE KEY UPDATE pass_id = VALUES(pass_id)',
            [$this->lane, $load, ...array_diff(self::STAND, [Outcome::Merged->value])],
        );

        return count($this->writtenAgain($load, $items));
    }

    /**
     * @param  list<int>  $items
     * @return int how many are left as they are after all
     */
    public function leave(int $load, array $items): int
    {
        return $this->again()->where('load_id', $load)->whereIntegerInRaw('item', $items)->delete();
    }

    /**
     * @param  list<int>  $items
     * @return list<int> those whose record is to be written again
     */
    public function writtenAgain(int $load, array $items): array
    {
        return array_values($this->again()->where('load_id', $load)->whereIntegerInRaw('item', $items)->pluck('item')
            ->map(fn ($item) => (int) $item)->all());
    }

    /** @return array<int, int> load → rows whose record is to be written again */
    public function toWriteAgain(): array
    {
        return $this->again()->groupBy('load_id')->selectRaw('load_id, COUNT(*) AS n')->pluck('n', 'load_id')
            ->map(fn ($n) => (int) $n)->all();
    }

    private function again(): Builder
    {
        return DB::table('due_rows')->where('lane_id', $this->lane)->whereNotNull('pass_id');
    }

    /**
     * @param  int|null  $load  null for all: nothing is due in a round that ended
     * @param  bool  $all  also what somebody asked for and no pass came to yet
     */
    public function forget(?int $load = null, bool $all = true): void
    {
        foreach (['due_causes', 'due_rows', 'stale_rows'] as $table) {
            DB::table($table)
                ->where('lane_id', $this->lane)
                ->when($load !== null, fn (Builder $q) => $q->where('load_id', $load))
                ->when(! $all && $table === 'due_rows', fn (Builder $q) => $q->whereNull('pass_id'))
                ->delete();
        }
        $all ?: DB::delete(
            'DELETE d FROM due_rows d STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY)
            ON o.lane_id = d.lane_id AND o.load_id = d.load_id AND o.item = d.item
            WHERE d.lane_id = ? AND d.load_id = ? AND d.pass_id IS NOT NULL AND o.pass_id <> d.pass_id',
            [$this->lane, $load],
        );
    }

    /**
     * Rows with a correction that the pass of their outcome had not seen, or one it saw that was ended since.
     *
     * @param  list<string>  $outcomes
     */
    private function corrected(int $load, int $take, array $outcomes): Builder
    {
        // In this order whatever the server believes: there are few corrections and many rows.
        return DB::query()
            ->fromRaw(
                'correction_places p STRAIGHT_JOIN corrections c FORCE INDEX (PRIMARY) ON c.id = p.correction_id
                STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = ? AND o.load_id = ? AND o.item = p.row_no
                STRAIGHT_JOIN passes s ON s.id = o.pass_id',
                [$this->lane, $load],
            )
            ->where('p.take_id', $take)
            ->where('p.row_no', '>', 0)
            ->where('p.state', CorrectionState::Carried->value)
            ->whereIn('o.outcome', $outcomes)
            ->where(fn (Builder $q) => $q
                ->where(fn (Builder $new) => $new->whereColumn('c.decision', '>', 's.decision')->where('c.ended', 0))
                ->orWhere(fn (Builder $ended) => $ended
                    ->whereColumn('c.decision', '<=', 's.decision')
                    ->whereColumn('c.ended', '>', 's.decision')));
    }

    /** Rows left behind by a decision that was taken back elsewhere. */
    private function waiversEnded(int $load): void
    {
        DB::statement(
            'INSERT IGNORE INTO due_rows (lane_id, load_id, item) SELECT o.lane_id, o.load_id, o.item FROM cause_tallies t
            STRAIGHT_JOIN causes c FORCE INDEX (PRIMARY) ON c.id = t.cause_id AND c.load_id = ?
            STRAIGHT_JOIN row_causes r FORCE INDEX (by_cause) ON r.cause_id = c.id
            STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = r.lane_id AND o.load_id = r.load_id AND o.item = r.item
            WHERE t.lane_id = ? AND t.outcome = ? AND t.n > 0 AND o.outcome = ?
            AND NOT EXISTS (SELECT 1 FROM waivers w FORCE INDEX (newest)
                WHERE w.load_id = c.load_id AND w.cause_hash = c.waive_hash AND w.ended = 0)',
            [$load, $this->lane, Outcome::Waived->value, Outcome::Waived->value],
        );
    }

    /** A row that is due for its cause is not counted for its correction too. */
    private function onceOnly(int $load): void
    {
        DB::delete(
            'DELETE d FROM due_rows d
            JOIN row_causes r ON r.lane_id = d.lane_id AND r.load_id = d.load_id AND r.item = d.item
            JOIN outcomes o ON o.lane_id = d.lane_id AND o.load_id = d.load_id AND o.item = d.item
            JOIN due_causes c ON c.lane_id = d.lane_id AND c.load_id = d.load_id AND c.cause_id = r.cause_id AND c.pass_id = o.pass_id
            WHERE d.lane_id = ? AND d.load_id = ? AND o.outcome <> ?',
            [$this->lane, $load, Outcome::Waived->value],
        );
    }
}
