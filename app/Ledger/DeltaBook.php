<?php

namespace App\Ledger;

use App\Models\PassLoad;
use App\Staging\Corrections;
use App\Support\BulkRows;
use Baggage\Core\Mapping\GonePolicy;
use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Facades\DB;

/**
 * What a delta pass has to do about one load: rows that differ from what the lane knows of them, rows that came, and rows that are
 * delivered no more. Found stretch by stretch in the database; a stretch found twice is found the same.
 */
final readonly class DeltaBook
{
    private const WORK = 'work';

    private const REMOVE = 'remove';

    public function __construct(private PassLoad $progress, private int $lane)
    {
    }

    /**
     * Whatever a stretch of rows left besides its lines.
     *
     * @return int|null the first row of the load, of those passed by already, that is to be worked on for it
     */
    public static function note(LoadRun $run, BatchRecord $record): ?int
    {
        if ($record->same !== []) {
            DB::table('outcomes')->where('lane_id', $run->lane())->where('load_id', $run->load->id)
                ->whereIntegerInRaw('item', $record->same)->update(['seen_by' => $run->number()]);
        }
        if ($record->moved !== []) {
            $lines = implode('', array_map(
                fn (array $moved) => BulkRows::line([$run->number(), $run->space, ...$moved]),
                $record->moved,
            ));
            BulkRows::loadNew(DB::connection(), 'moved_keys', '(pass_id, space_id, legacy_key, target_key)', $lines);
        }
        BackOutBook::tell($run->number(), $run->load->id, $record->overwritten, $record->kept);
        $back = null;
        if ($run->isDelta() && $record->changed !== []) {
            self::again($run, array_values($record->changed));
            $back = $run->load->reads() ? self::laterOnes($run, $record->changed, $record->last) : null;
        }
        if ($run->isDelta() && $run->load->gone === GonePolicy::Remove) {
            self::list($run->progress->id, self::REMOVE, $record->left);
        }

        return $back;
    }

    /**
     * What later rows of the same load put over records that were changed they put over them again.
     *
     * @param  non-empty-array<int, string>  $changed  row → target key of the record it changed
     * @return int|null the first of them that lies before the end of the stretch
     */
    private static function laterOnes(LoadRun $run, array $changed, int $last): ?int
    {
        $first = [];
        foreach ($changed as $row => $key) {
            $first[$key] = min($row, $first[$key] ?? $row);
        }
        $stand = DB::table('outcomes')->forceIndex('target')->where('lane_id', $run->lane())->where('load_id', $run->load->id)
            ->whereIn('target_key', array_map(strval(...), array_keys($first)))->whereNull('stands')
            ->whereIn('outcome', [Outcome::Updated->value, Outcome::Unchanged->value])->get(['item', 'target_key']);
        $later = $stand->filter(fn (\stdClass $o) => $o->item > $first[$o->target_key] && ! isset($changed[$o->item]))
            ->pluck('item')->map(fn ($item) => (int) $item)->values()->all();
        self::list($run->progress->id, self::WORK, $later);
        $passed = array_filter($later, fn (int $item) => $item <= $last);

        return $passed === [] ? null : min($passed);
    }

    /**
     * What later loads put over records that were changed they put over them again.
     *
     * @param  non-empty-list<string>  $keys  target keys
     */
    private static function again(LoadRun $run, array $keys): void
    {
        $marks = implode(',', array_fill(0, count($keys), '?'));
        DB::insert(
            "INSERT IGNORE INTO delta_rows (pass_load_id, kind, item) SELECT l.id, 'work', o.item
            FROM outcomes o FORCE INDEX (target)
            STRAIGHT_JOIN loads n FORCE INDEX (PRIMARY) ON n.id = o.load_id AND n.entity_id = ?
            STRAIGHT_JOIN pass_loads l ON l.pass_id = ? AND l.load_id = o.load_id AND l.id > ?
            WHERE o.lane_id = ? AND o.target_key IN ($marks) AND o.stands IS NULL AND o.outcome IN ('updated', 'unchanged')",
            [$run->entity, $run->number(), $run->progress->id, $run->lane(), ...$keys],
        );
    }

    /**
     * Rows that give up what they stood on: their keys lead elsewhere from now on.
     *
     * @param  list<int>  $items
     */
    public static function move(int $pass, int $lane, int $load, array $items): void
    {
        $items === [] ?: DB::insert(
            'INSERT IGNORE INTO moved_keys SELECT ?, space_id, legacy_key, target_key FROM outcomes FORCE INDEX (PRIMARY)
            WHERE lane_id = ? AND load_id = ? AND item IN ('.implode(',', $items).') AND target_key IS NOT NULL',
            [$pass, $lane, $load],
        );
    }

    /** @param  list<int>  $items */
    private static function list(int $progress, string $kind, array $items): void
    {
        $lines = implode('', array_map(fn (int $item) => BulkRows::line([$progress, $kind, $item]), $items));
        BulkRows::loadNew(DB::connection(), 'delta_rows', '(pass_load_id, kind, item)', $lines);
    }

    /**
     * Rows of a stretch that are to be mapped anew, of those that have a line.
     *
     * @param  list<int>  $stale  passes that went by other rules than those of now
     * @return int rows whose cells are others than in the take before
     */
    public function differing(int $after, int $to, array $stale, bool $all): int
    {
        $stretch = [$this->lane, $this->progress->load_id, $after, $to];
        $line = 'FROM outcomes o FORCE INDEX (PRIMARY) WHERE o.lane_id = ? AND o.load_id = ? AND o.item > ? AND o.item <= ?';
        $changed = $this->isNewTake() ? $this->put(
            'SELECT b.row_no FROM staged_rows b FORCE INDEX (PRIMARY)
            STRAIGHT_JOIN staged_rows a FORCE INDEX (PRIMARY) ON a.take_id = ? AND a.row_no = b.row_no
            WHERE b.take_id = ? AND b.row_no > ? AND b.row_no <= ? AND a.hash <> b.hash',
            [$this->progress->from_take_id, $this->progress->take_id, $after, $to],
        ) : 0;
        // What failed is always tried, also where somebody accepted that: it stays left behind while it fails for that.
        $isStale = $stale === [] ? '' : ' OR COALESCE(o.seen_by, o.pass_id) IN ('.implode(',', $stale).')';
        $which = $all ? '' : " AND (o.outcome IN ('rejected', 'held', 'waived')$isStale)";
        $this->put("SELECT o.item $line AND o.outcome NOT IN ('gone', 'review', 'withdrawn', 'pending')$which", $stretch);
        $this->corrected($after, $to);

        return $changed;
    }

    /** What was corrected, or let go, since the row was last looked at; where another take was read all of it. */
    private function corrected(int $after, int $to): void
    {
        $takes = [$this->progress->take_id, (int) $this->progress->from_take_id];
        $rows = self::decided($this->lane, $this->progress->load_id, $takes, $after, $to, $this->isNewTake());
        self::list($this->progress->id, self::WORK, $rows);
    }

    /**
     * Rows of a stretch that were decided about since they were last looked at; of another take all that were.
     *
     * @param  list<int>  $takes
     * @return list<int>
     */
    public static function decided(int $lane, int $load, array $takes, int $after, int $to, bool $isNewTake): array
    {
        $decided = Corrections::decided($takes, $after, $to);
        $seen = $decided === [] ? [] : DB::table('outcomes as o')
            ->join('passes as s', 's.id', '=', DB::raw('COALESCE(o.seen_by, o.pass_id)'))
            ->where('o.lane_id', $lane)->where('o.load_id', $load)
            ->whereIntegerInRaw('o.item', array_keys($decided))
            ->pluck('s.decision', 'o.item')->all();

        return array_keys(array_filter(
            array_intersect_key($decided, $seen),
            fn (int $decision, int $row) => $isNewTake || $decision > (int) $seen[$row],
            ARRAY_FILTER_USE_BOTH,
        ));
    }

    public function isNewTake(): bool
    {
        return $this->progress->from_take_id !== $this->progress->take_id;
    }

    /** @param  list<int|string|bool|null>  $values */
    private function put(string $select, array $values): int
    {
        return DB::affectingStatement(
            "INSERT IGNORE INTO delta_rows (pass_load_id, kind, item) SELECT {$this->progress->id}, 'work', x.* FROM ($select) x",
            $values,
        );
    }

    /**
     * Rows of a stretch that are delivered and have no line.
     *
     * @return list<int>
     */
    public function added(int $after, int $to): array
    {
        return $this->rows(
            'SELECT b.row_no FROM staged_rows b FORCE INDEX (PRIMARY)
            LEFT JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = ? AND o.load_id = ? AND o.item = b.row_no
            WHERE b.row_no > ? AND b.row_no <= ? AND b.take_id = ? AND o.item IS NULL',
            [$this->lane, $this->progress->load_id, $after, $to, $this->progress->take_id],
        );
    }

    /**
     * Rows of a stretch that have a line and are delivered no more.
     *
     * @return list<int>
     */
    public function gone(int $after, int $to): array
    {
        return $this->rows(
            "SELECT o.item FROM outcomes o FORCE INDEX (PRIMARY)
            LEFT JOIN staged_rows b FORCE INDEX (PRIMARY) ON b.take_id = {$this->progress->take_id} AND b.row_no = o.item
            WHERE o.lane_id = ? AND o.load_id = ? AND o.item > ? AND o.item <= ? AND b.row_no IS NULL
            AND o.outcome NOT IN ('gone', 'review', 'withdrawn')",
            [$this->lane, $this->progress->load_id, $after, $to],
        );
    }

    /**
     * Rows of a stretch that were delivered no more, and are again.
     *
     * @return list<int>
     */
    public function back(int $after, int $to): array
    {
        return $this->rows(
            "SELECT o.item FROM outcomes o FORCE INDEX (PRIMARY)
            STRAIGHT_JOIN staged_rows b FORCE INDEX (PRIMARY) ON b.take_id = {$this->progress->take_id} AND b.row_no = o.item
            WHERE o.lane_id = ? AND o.load_id = ? AND o.item > ? AND o.item <= ? AND o.outcome IN ('gone', 'review', 'withdrawn')",
            [$this->lane, $this->progress->load_id, $after, $to],
        );
    }

    /**
     * @param  list<int|null>  $values
     * @return list<int>
     */
    private function rows(string $select, array $values): array
    {
        return array_map(fn (\stdClass $r) => (int) current((array) $r), DB::select($select, $values));
    }

    /**
     * Lines of rows that are delivered no more: they stand beside the sum from now on, with their record or without one.
     *
     * @param  list<int>  $items
     */
    public function leave(array $items, GonePolicy $policy, LedgerWriter $writer): void
    {
        $this->freeMembers($items);
        $policy === GonePolicy::Remove
            ? self::move($this->progress->pass_id, $this->lane, $this->progress->load_id, $items)
            : null;
        $writer->leave($this->lane, $this->progress->load_id, $items, $policy, $this->progress->pass_id);
        $policy === GonePolicy::Remove ? self::list($this->progress->id, self::REMOVE, $items) : null;
    }

    /**
     * Rows of a stretch that were delivered no more before this pass, and of which something else is to become now: their records are
     * to go, or were to go in a pass that was ended before.
     *
     * @return list<int>
     */
    public function left(int $after, int $to, GonePolicy $policy): array
    {
        $kept = $policy === GonePolicy::Remove ? " OR o.outcome IN ('gone', 'review')" : '';
        $before = DB::table('delta_rows')->where('pass_load_id', $this->progress->id)->where('kind', self::REMOVE)
            ->where('item', '>', $after)->where('item', '<=', $to)->pluck('item')->all();

        return array_values(array_diff($this->rows(
            "SELECT o.item FROM outcomes o FORCE INDEX (PRIMARY) WHERE o.lane_id = ? AND o.load_id = ? AND o.item > ? AND o.item <= ?
            AND ((o.outcome = 'withdrawn' AND o.target_key IS NOT NULL)$kept)",
            [$this->lane, $this->progress->load_id, $after, $to],
        ), array_map(intval(...), $before)));
    }

    /** What earlier deltas found and did not come to, as they were ended before. */
    public function takeOver(): void
    {
        $this->put(
            'SELECT DISTINCT d.item FROM passes p
            STRAIGHT_JOIN pass_loads l ON l.pass_id = p.id AND l.load_id = ?
            STRAIGHT_JOIN delta_rows d FORCE INDEX (PRIMARY) ON d.pass_load_id = l.id AND d.kind = \'work\'
            STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = p.lane_id AND o.load_id = l.load_id AND o.item = d.item
            WHERE p.lane_id = ? AND p.kind = \'delta\' AND p.id < ? AND p.backed_out_by IS NULL
            AND o.pass_id < p.id AND COALESCE(o.seen_by, 0) < p.id',
            [$this->progress->load_id, $this->lane, $this->progress->pass_id],
        );
    }

    /** Rows that deltas of a lane found to differ and did not come to. */
    public static function leftOver(int $lane): int
    {
        return (int) DB::scalar(
            "SELECT COUNT(DISTINCT l.load_id, d.item) FROM passes p
            STRAIGHT_JOIN pass_loads l ON l.pass_id = p.id AND l.state <> 'done' AND l.compared IS NOT NULL
            STRAIGHT_JOIN delta_rows d FORCE INDEX (PRIMARY) ON d.pass_load_id = l.id
            STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = p.lane_id AND o.load_id = l.load_id AND o.item = d.item
            WHERE p.lane_id = ? AND p.kind = 'delta' AND p.state = 'finished' AND p.backed_out_by IS NULL
            AND ((d.kind = 'work' AND o.pass_id < p.id AND COALESCE(o.seen_by, 0) < p.id)
                OR (d.kind = 'remove' AND o.outcome = 'withdrawn' AND o.target_key IS NOT NULL))",
            [$lane],
        );
    }

    /**
     * What a delta would find of a load, counted and nothing written.
     *
     * @param  int  $from  the take the round works on
     * @param  list<int>  $stale  passes that went by other rules than those of now
     * @return array{added: int, changed: int, gone: int, untouched: int, to_map: int} to_map has the changed rows and those that failed
     *                                                                              or were made by other rules, and not the added ones
     */
    public static function foreseen(int $lane, int $load, int $from, int $to, array $stale, bool $all): array
    {
        $isStale = $stale === [] ? '0' : 'COALESCE(o.seen_by, o.pass_id) IN ('.implode(',', $stale).')';
        $isMapped = $all ? '1' : "a.hash <> b.hash OR a.hash IS NULL OR o.outcome IN ('rejected', 'held', 'waived') OR $isStale";
        $lines = DB::selectOne(
            "SELECT COALESCE(SUM(b.row_no IS NULL AND o.outcome NOT IN ('gone', 'review', 'withdrawn')), 0) AS gone,
            COALESCE(SUM(a.hash <> b.hash), 0) AS changed, COALESCE(SUM(b.row_no IS NOT NULL AND ($isMapped)), 0) AS to_map,
            COUNT(b.row_no) AS there FROM outcomes o FORCE INDEX (PRIMARY)
            LEFT JOIN staged_rows a FORCE INDEX (PRIMARY) ON a.take_id = ? AND a.row_no = o.item
            LEFT JOIN staged_rows b FORCE INDEX (PRIMARY) ON b.take_id = ? AND b.row_no = o.item
            WHERE o.lane_id = ? AND o.load_id = ?",
            [$from, $to, $lane, $load],
        );
        $rows = (int) DB::scalar('SELECT COUNT(*) FROM staged_rows FORCE INDEX (PRIMARY) WHERE take_id = ?', [$to]);
        $added = $rows - (int) $lines->there;

        return [
            'added' => $added, 'changed' => (int) $lines->changed, 'gone' => (int) $lines->gone,
            'untouched' => $rows - $added - (int) $lines->to_map, 'to_map' => (int) $lines->to_map,
        ];
    }

    /** Records of a load that a delta to a take would remove, if nothing refers to them. */
    public static function wouldRemove(int $lane, int $load, int $take): int
    {
        // Of rows that are gone already the log says whether the round made their record.
        return (int) DB::selectOne(
            "SELECT COUNT(DISTINCT o.target_key) AS n FROM outcomes o
            LEFT JOIN staged_rows b FORCE INDEX (PRIMARY) ON b.take_id = ? AND b.row_no = o.item
            WHERE o.lane_id = ? AND o.load_id = ? AND b.row_no IS NULL AND o.stands = 1 AND (o.outcome = 'loaded'
            OR (o.outcome IN ('gone', 'review', 'withdrawn', 'rejected', 'held', 'waived', 'excluded')
                AND EXISTS (SELECT 1 FROM outcome_log l
                WHERE l.lane_id = o.lane_id AND l.load_id = o.load_id AND l.item = o.item AND l.outcome = 'loaded')))",
            [$take, $lane, $load],
        )->n;
    }

    /**
     * Rows merged into others that go look anew whose record theirs is.
     *
     * @param  list<int>  $items
     */
    private function freeMembers(array $items): void
    {
        DB::insert(
            "INSERT IGNORE INTO delta_rows (pass_load_id, kind, item) SELECT pl.id, 'work', m.item
            FROM outcomes o FORCE INDEX (PRIMARY)
            STRAIGHT_JOIN outcomes m FORCE INDEX (target) ON m.lane_id = o.lane_id AND m.target_key = o.target_key
                AND m.space_id = o.space_id AND m.outcome = 'merged'
            STRAIGHT_JOIN pass_loads pl ON pl.pass_id = ? AND pl.load_id = m.load_id
            WHERE o.lane_id = ? AND o.load_id = ? AND o.item IN (".implode(',', $items).") AND o.outcome <> 'merged'",
            [$this->progress->pass_id, $this->lane, $this->progress->load_id],
        );
    }

    /**
     * Rows that are delivered again are looked at whatever they say.
     *
     * @param  list<int>  $items
     */
    public function takeBack(array $items, LedgerReader $reader, LedgerWriter $writer): void
    {
        $standing = $reader->standingOn($this->progress->load_id, $items);
        $as = [];
        foreach ($items as $item) {
            $as[($standing[$item]->outcome ?? Outcome::Pending)->value][] = $item;
        }
        $writer->takeGoneBack($this->lane, $this->progress->load_id, $as, $this->progress->pass_id);
        self::list($this->progress->id, self::WORK, $items);
    }

    /**
     * Rows of the load that stand on some records, or found them by key, are mapped anew.
     *
     * @param  non-empty-list<string>  $keys  target keys
     */
    public function onRecords(array $keys): void
    {
        $this->put(
            'SELECT o.item FROM outcomes o FORCE INDEX (target)
            WHERE o.lane_id = ? AND o.target_key IN ('.implode(',', array_fill(0, count($keys), '?')).") AND o.load_id = ?
            AND o.outcome NOT IN ('gone', 'review', 'withdrawn', 'pending')",
            [$this->lane, ...$keys, $this->progress->load_id],
        );
    }

    /**
     * Target keys that keys of some spaces led to before the pass moved them, those after one in their order.
     *
     * @param  list<int>  $spaces
     * @return list<string>
     */
    public static function moved(int $pass, array $spaces, string $after, int $most): array
    {
        return $spaces === [] ? [] : DB::table('moved_keys')->where('pass_id', $pass)->whereIntegerInRaw('space_id', $spaces)
            ->where('target_key', '>', $after)->distinct()->orderBy('target_key')->limit($most)->pluck('target_key')
            ->map(strval(...))->all();
    }

    /** References set later that lead to such keys wait again. */
    public static function followMoved(int $pass, int $lane): void
    {
        DB::update(
            'UPDATE moved_keys k STRAIGHT_JOIN links l FORCE INDEX (of_parent)
                ON l.lane_id = ? AND l.parent_space_id = k.space_id AND l.parent_key = k.legacy_key
            SET l.state = ? WHERE k.pass_id = ? AND l.state = ?',
            [$lane, LinkState::Waiting->value, $pass, LinkState::Made->value],
        );
    }

    /** @param  list<int>  $items  whose records a back-out put back */
    public static function revived(int $progress, array $items): void
    {
        self::list($progress, self::WORK, $items);
    }

    /**
     * @param  list<int>  $items
     * @return array<int, int> those of them that are listed, as keys
     */
    public function among(array $items): array
    {
        return DB::table('delta_rows')->where('pass_load_id', $this->progress->id)->where('kind', self::WORK)
            ->whereIntegerInRaw('item', $items)->pluck('item', 'item')->all();
    }

    /**
     * Lines that wait of rows which a take does not have: the round does not work on the take any more that had them.
     *
     * @return int how many
     */
    public static function drop(int $lane, int $load, int $take): int
    {
        return DB::delete(
            'DELETE o FROM outcomes o FORCE INDEX (by_outcome)
            LEFT JOIN staged_rows s FORCE INDEX (PRIMARY) ON s.take_id = ? AND s.row_no = o.item
            WHERE o.lane_id = ? AND o.load_id = ? AND o.outcome = ? AND s.row_no IS NULL',
            [$take, $lane, $load, Outcome::Pending->value],
        );
    }

    public function toDo(): int
    {
        return DB::table('delta_rows')->where('pass_load_id', $this->progress->id)->where('kind', self::WORK)->count();
    }

    /** @return list<int> rows whose record is to go, those after one */
    public function toRemove(int $after, int $most): array
    {
        return DB::table('delta_rows')->where('pass_load_id', $this->progress->id)->where('kind', self::REMOVE)->where('item', '>', $after)
            ->orderBy('item')->limit($most)->pluck('item')->map(fn ($n) => (int) $n)->all();
    }
}
