<?php

namespace App\Ledger;

use Baggage\Core\Loading\Undoing;
use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Facades\DB;

/** What some passes of a lane left, row by row: reads it for a back-out, and writes down that it is undone. */
final class BackOutBook
{
    private const DELETED_AT_ONCE = 20_000;

    private const LEFT_TOLD = 500;

    /** @var array<string, int>|null "entity key" of records that stood before these passes */
    private ?array $takenOver = null;

    private ?bool $replaced = null;

    private ?bool $changed = null;

    /**
     * @param  non-empty-list<int>  $passes  that are backed out
     * @param  int  $by  the pass that does it
     */
    public function __construct(private readonly int $lane, private readonly array $passes, private readonly int $by)
    {
    }

    private function ids(): string
    {
        return implode(',', $this->passes);
    }

    /** @return array<int, int> load → rows that have a line of these passes */
    public function counts(): array
    {
        return DB::table('outcomes')
            ->where('lane_id', $this->lane)
            ->whereIn('pass_id', $this->passes)
            ->groupBy('load_id')
            ->selectRaw('load_id, COUNT(*) AS n')
            ->pluck('n', 'load_id')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    /**
     * What a load left that would be taken back.
     *
     * @return array{rows: int, remove: int, change_back: int}
     */
    public function foreseen(int $load, int $entity): array
    {
        $lines = fn () => DB::table('outcomes')->where('lane_id', $this->lane)->where('load_id', $load)->whereIn('pass_id', $this->passes);
        $made = (clone $lines())->where('outcome', Outcome::Loaded->value)->where('stands', 1);
        $taken = array_map(
            fn (string $of) => substr($of, strlen("$entity ")),
            array_filter(array_keys($this->takenOver()), fn (string $of) => str_starts_with($of, "$entity ")),
        );

        return [
            'rows' => $lines()->count(),
            'remove' => $made->count() - ($taken === [] ? 0 : (clone $made)->whereIn('target_key', $taken)->count()),
            'change_back' => DB::table('values_before')->where('load_id', $load)->whereIn('pass_id', $this->passes)
                ->distinct()->count('target_key'),
        ];
    }

    /**
     * Rows of a stretch whose line is of these passes, or was replaced by one of them.
     *
     * @param  int  $entity  that the load fills
     * @param  bool  $reads  whether the load finds its records by keys of others, and so makes none
     * @return array{list<Undoing>, array<int, int>} rows, and row → the pass that sent its record
     */
    public function rows(int $load, int $entity, bool $reads, int $after, int $to): array
    {
        $range = [$this->lane, $load, $after, $to];
        $columns = 'o.item, o.legacy_key, o.outcome, o.target_key, LOWER(HEX(o.sent_hash)) AS sent, o.pass_id';
        $lines = DB::select(
            "SELECT $columns FROM outcomes o FORCE INDEX (PRIMARY)
            WHERE o.lane_id = ? AND o.load_id = ? AND o.item > ? AND o.item <= ? AND o.pass_id IN ({$this->ids()}) ORDER BY o.item",
            $range,
        );
        if ($this->haveReplaced()) {
            array_push($lines, ...DB::select(
                "SELECT DISTINCT $columns FROM outcome_log l FORCE INDEX (by_row)
                STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = l.lane_id AND o.load_id = l.load_id AND o.item = l.item
                WHERE l.lane_id = ? AND l.load_id = ? AND l.item > ? AND l.item <= ? AND l.by_pass IN ({$this->ids()})
                AND o.pass_id NOT IN ({$this->ids()})",
                $range,
            ));
        }
        $keys = array_values(array_unique(array_filter(array_column($lines, 'target_key'), is_string(...))));
        $before = $keys === [] || ! $this->haveChanged() ? [] : $this->before($entity, $keys);
        $made = $this->madeOnce($load, $lines);
        $changed = $before === [] ? [] : $this->changedBy($load, array_map(fn (\stdClass $l) => (int) $l->item, $lines));
        $sent = $this->lastSent($load, $lines, []);
        $rows = $passes = [];
        foreach ($lines as $line) {
            $passes[(int) $line->item] = $sent[(int) $line->item] ?? (int) $line->pass_id;
            $isLoaded = $line->outcome === Outcome::Loaded->value || isset($made[(int) $line->item]);
            $of = $before[$line->target_key] ?? null;
            $rows[] = $this->undoing($line, $entity, ! $reads && $isLoaded, $of, isset($changed[(int) $line->item]));
        }

        return [$rows, $passes];
    }

    /**
     * Rows that say something else since, and whose record one of these passes may have made.
     *
     * @param  list<\stdClass>  $lines
     * @return array<int, int> as keys
     */
    private function madeOnce(int $load, array $lines): array
    {
        $isOther = fn (\stdClass $l) => $l->target_key !== null && ! in_array($l->outcome, LedgerReader::STANDS, true);
        $items = array_map(fn (\stdClass $l) => (int) $l->item, array_filter($lines, $isOther));

        return $items === [] ? [] : DB::table('outcome_log')
            ->forceIndex('by_row')
            ->where('lane_id', $this->lane)
            ->where('load_id', $load)
            ->whereIntegerInRaw('item', $items)
            ->whereIn('by_pass', $this->passes)
            ->where('outcome', Outcome::Loaded->value)
            ->pluck('item', 'item')
            ->all();
    }

    /**
     * @param  bool  $isLoaded  whether its record is one the lane made
     * @param  array{array<string, string|null>, bool}|null  $before
     * @param  bool  $hasChanged  whether this row changed its record, and not others alone
     */
    private function undoing(\stdClass $line, int $entity, bool $isLoaded, ?array $before, bool $hasChanged): Undoing
    {
        $isOfThese = in_array((int) $line->pass_id, $this->passes, true) && $line->target_key !== null;
        $isMade = $isOfThese && $isLoaded && ! isset($this->takenOver()["$entity $line->target_key"]);
        $isChanged = $isOfThese && ! $isMade && $hasChanged && $before !== null && $line->outcome !== Outcome::Merged->value;

        return new Undoing(
            (int) $line->item,
            $line->legacy_key,
            $isMade ? $line->target_key : null,
            $isChanged ? $line->target_key : null,
            $isChanged || $isMade ? $before[0] ?? [] : [],
            $line->sent,
            // Of a record it made, any change is another's.
            $isMade ? $before === null : $before[1] ?? true,
        );
    }

    /**
     * @param  list<int>  $items
     * @return array<int, int> those of them that changed a record in these passes, as keys
     */
    private function changedBy(int $load, array $items): array
    {
        return DB::table('values_before')->whereIn('pass_id', $this->passes)->where('load_id', $load)->whereIntegerInRaw('item', $items)
            ->pluck('item', 'item')->all();
    }

    /**
     * What records were before the first of these passes changed them.
     *
     * @param  list<string>  $keys
     * @return array<array-key, array{array<string, string|null>, bool}> target key → the record, and whether one row alone changed it
     */
    private function before(int $entity, array $keys): array
    {
        $first = DB::table('values_before')
            ->forceIndex('of_record')
            ->where('entity_id', $entity)
            ->whereIn('target_key', $keys)
            ->whereIn('pass_id', $this->passes)
            ->groupBy('target_key')
            ->selectRaw('target_key, MIN(id) AS id, COUNT(DISTINCT load_id, item) AS n')
            ->get();
        $values = DB::table('values_before')->whereIn('id', $first->pluck('id'))->pluck('values', 'id');
        $found = [];
        foreach ($first as $of) {
            $found[$of->target_key] = [json_decode($values[$of->id], true, 8, JSON_THROW_ON_ERROR), (int) $of->n === 1];
        }

        return $found;
    }

    /** Whether these passes replaced any line. */
    private function haveReplaced(): bool
    {
        return $this->replaced ??= DB::table('outcome_log')->forceIndex('by_row')->where('lane_id', $this->lane)
            ->whereIn('by_pass', $this->passes)->exists();
    }

    /** Whether these passes changed any record that was there. */
    private function haveChanged(): bool
    {
        return $this->changed ??= DB::table('values_before')->whereIn('pass_id', $this->passes)->exists();
    }

    /**
     * @param  non-empty-list<string>  $keys  target keys
     * @return array<array-key, int> those of them that these passes made and which are there yet, as keys
     */
    public function made(int $entity, array $keys): array
    {
        $found = DB::table('outcomes as o')->join('loads as l', fn ($j) => $j->on('l.id', '=', 'o.load_id')->where('l.entity_id', $entity))
            ->where('o.lane_id', $this->lane)->whereIn('o.target_key', $keys)->whereIn('o.pass_id', $this->passes)
            ->where('o.outcome', Outcome::Loaded->value)->pluck('o.target_key')->all();

        return array_flip(array_filter($found, fn (string $key) => ! isset($this->takenOver()["$entity $key"])));
    }

    /** @return array<string, int> */
    private function takenOver(): array
    {
        return $this->takenOver ??= DB::table('outcome_log')
            ->forceIndex('by_row')
            ->join('loads', 'loads.id', '=', 'outcome_log.load_id')
            ->where('outcome_log.lane_id', $this->lane)
            ->whereIn('outcome_log.by_pass', $this->passes)
            ->whereNotIn('outcome_log.pass_id', $this->passes)
            ->whereNotNull('outcome_log.target_key')
            ->where('outcome_log.outcome', '<>', Outcome::Removed->value)
            ->get(['loads.entity_id', 'outcome_log.target_key'])
            ->mapWithKeys(fn ($r) => ["$r->entity_id $r->target_key" => 1])
            ->all();
    }

    /**
     * The lines rows had before these passes.
     *
     * @param  list<int>  $items
     * @return array<int, \stdClass> item → outcome, target_key, sent_hash in hexadecimal, pass_id, cause_id, legacy_key
     */
    public function linesBefore(int $load, array $items): array
    {
        $last = DB::table('outcome_log')
            ->forceIndex('by_row')
            ->where('lane_id', $this->lane)
            ->where('load_id', $load)
            ->whereIntegerInRaw('item', $items)
            ->whereIn('by_pass', $this->passes)
            ->whereNotIn('pass_id', $this->passes)
            ->groupBy('item')
            ->selectRaw('MAX(id) AS id');

        $lines = $items === [] || ! $this->haveReplaced() ? [] : DB::query()
            ->fromSub($last, 'm')
            ->join('outcome_log as l', 'l.id', '=', 'm.id')
            ->selectRaw('l.item, l.outcome, l.target_key, LOWER(HEX(l.sent_hash)) AS sent_hash, l.pass_id, l.cause_id, l.legacy_key')
            ->get()
            ->keyBy('item')
            ->all();
        // Lines were kept with the keys they had got by then.
        foreach (KeyChanges::before($load, $this->passes, array_keys($lines)) as $item => $key) {
            $lines[$item]->legacy_key = $key;
        }

        return $lines;
    }

    /**
     * The passes that sent the records of rows which failed since, or were delivered no more.
     *
     * @param  array<int, \stdClass>  $lines  by item, as they were before these passes
     * @return array<int, int> item → pass
     */
    public function sentBy(int $load, array $lines): array
    {
        return $this->lastSent($load, array_values($lines), $this->passes);
    }

    /**
     * @param  list<\stdClass>  $lines  item, outcome, target_key
     * @param  list<int>  $but  passes that are not meant
     * @return array<int, int> item of those whose line says something else since → the last pass that sent its record
     */
    private function lastSent(int $load, array $lines, array $but): array
    {
        $isOther = fn (\stdClass $l) => $l->target_key !== null && ! in_array($l->outcome, LedgerReader::STANDS, true);
        $items = array_map(fn (\stdClass $l) => (int) $l->item, array_filter($lines, $isOther));
        $last = DB::table('outcome_log')->forceIndex('by_row')->where('lane_id', $this->lane)->where('load_id', $load)
            ->whereIntegerInRaw('item', $items)->whereIn('outcome', LedgerReader::STANDS)->whereNotIn('pass_id', $but)
            ->groupBy('item')->selectRaw('MAX(id) AS id');

        return $items === [] ? [] : DB::query()->fromSub($last, 'm')->join('outcome_log as l', 'l.id', '=', 'm.id')
            ->pluck('l.pass_id', 'l.item')->map(fn ($id) => (int) $id)->all();
    }

    /**
     * Another lane that stands on a record these passes made.
     *
     * @return string|null its round, and the record
     */
    public function standsElsewhere(int $load, int $entity): ?string
    {
        $others = $this->otherLanes();
        $found = $others === [] ? null : DB::selectOne(
            'SELECT r.name, e.name AS entity, o.target_key FROM outcomes o FORCE INDEX (by_outcome)
            STRAIGHT_JOIN outcomes x FORCE INDEX (target) ON x.lane_id IN ('.implode(',', $others).") AND x.target_key = o.target_key
            STRAIGHT_JOIN loads f FORCE INDEX (PRIMARY) ON f.id = x.load_id AND f.entity_id = ?
            STRAIGHT_JOIN entities e FORCE INDEX (PRIMARY) ON e.id = f.entity_id
            STRAIGHT_JOIN lanes n FORCE INDEX (PRIMARY) ON n.id = x.lane_id
            STRAIGHT_JOIN rounds r FORCE INDEX (PRIMARY) ON r.id = n.round_id
            WHERE o.lane_id = ? AND o.load_id = ? AND o.outcome = ? AND o.pass_id IN ({$this->ids()}) LIMIT 1",
            [$entity, $this->lane, $load, Outcome::Loaded->value],
        );

        return $found === null ? null : "Round $found->name stands on $found->entity $found->target_key, which this round made";
    }

    /**
     * Rows whose record these passes removed, those after one: it stood before them, and nobody stands on it any more.
     *
     * @return array<int, array{string, string, array<string, string|null>}|null> row → target key, legacy key, and the record as it was
     *                                                                     before the first of these passes; null where these made it
     */
    public function removed(int $load, int $entity, int $after, int $most): array
    {
        // Of several rows that had it one after another the last one gives it back.
        $lines = DB::select(
            "SELECT v.item, v.target_key, o.legacy_key FROM values_before v
            STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = ? AND o.load_id = v.load_id AND o.item = v.item
            WHERE v.pass_id IN ({$this->ids()}) AND v.load_id = ? AND v.item > ? AND o.outcome IN ('withdrawn', 'excluded')
            AND o.target_key IS NULL AND v.id = (SELECT MAX(w.id) FROM values_before w FORCE INDEX (of_record)
                WHERE w.entity_id = ? AND w.target_key = v.target_key AND w.pass_id IN ({$this->ids()}))
            AND NOT EXISTS (SELECT 1 FROM outcomes x FORCE INDEX (target) JOIN loads f ON f.id = x.load_id AND f.entity_id = ?
                WHERE x.lane_id = o.lane_id AND x.target_key = v.target_key)
            ORDER BY v.item LIMIT $most",
            [$this->lane, $load, $after, $entity, $entity],
        );
        $before = $this->before($entity, array_values(array_unique(array_column($lines, 'target_key'))));
        $removed = [];
        foreach ($lines as $line) {
            // One that was made by these passes too is not missed.
            $removed[(int) $line->item] = isset($this->takenOver()["$entity $line->target_key"])
                ? [$line->target_key, $line->legacy_key, $before[$line->target_key][0]]
                : null;
        }

        return $removed;
    }

    /** @param  list<array{int, string, string}>  $rows  row, target key of its record that is no more, why */
    public function leaveGone(int $load, array $rows): void
    {
        DB::table('left_records')->insertOrIgnore(array_map(fn (array $r) => [
            'pass_id' => $this->by, 'load_id' => $load, 'item' => $r[0], 'target_key' => $r[1],
            'why' => mb_substr($r[2], 0, self::LEFT_TOLD),
        ], $rows));
    }

    /**
     * The takes the round worked on before these passes.
     *
     * @return array<int, int> load → take, where another one was worked on since
     */
    public function takesBefore(): array
    {
        return DB::table('pass_loads')->whereIn('pass_id', $this->passes)->whereNotNull('from_take_id')->whereNotNull('compared')
            ->orderByDesc('pass_id')->pluck('from_take_id', 'load_id')->map(fn ($id) => (int) $id)->all();
    }

    /** @return list<int> of the same target */
    private function otherLanes(): array
    {
        $target = DB::table('lanes')->where('id', $this->lane)->value('target_id');

        return DB::table('lanes')->where('target_id', $target)->where('id', '<>', $this->lane)->pluck('id')
            ->map(fn ($id) => (int) $id)->values()->all();
    }

    /**
     * @param  list<Undoing>  $left  whose record is left as it is
     */
    public function leave(int $load, array $left): void
    {
        foreach (array_chunk($left, 1_000) as $some) {
            DB::table('left_records')->insertOrIgnore(array_map(fn (Undoing $u) => [
                'pass_id' => $this->by, 'load_id' => $load, 'item' => $u->row, 'target_key' => (string) ($u->made ?? $u->changed),
                'why' => mb_substr((string) $u->left, 0, self::LEFT_TOLD),
            ], $some));
        }
    }

    /**
     * What others had changed in records that a pass changed again.
     *
     * @param  array<int, list<string>>  $overwritten  row → fields
     * @param  array<int, list<string>>  $kept  row → fields
     */
    public static function tell(int $pass, int $load, array $overwritten, array $kept): void
    {
        $lines = [];
        foreach ($overwritten + $kept as $row => $of) {
            $said = array_filter([
                isset($overwritten[$row]) ? 'written over what somebody had changed: '.implode(', ', $overwritten[$row]) : null,
                isset($kept[$row]) ? 'kept what somebody had changed: '.implode(', ', $kept[$row]) : null,
            ]);
            $lines[] = [
                'pass_id' => $pass, 'load_id' => $load, 'item' => $row, 'target_key' => '',
                'why' => mb_substr(ucfirst(implode('; ', $said)), 0, self::LEFT_TOLD),
            ];
        }
        DB::table('left_records')->insertOrIgnore($lines);
    }

    /**
     * Rows of a stretch whose record is left.
     *
     * @return array<int, string> item → why
     */
    public function left(int $load, int $after, int $to): array
    {
        return DB::table('left_records')->where('pass_id', $this->by)->where('load_id', $load)
            ->where('item', '>', $after)->where('item', '<=', $to)->pluck('why', 'item')->all();
    }

    public static function countLeftBy(int $pass): int
    {
        return DB::table('left_records')->where('pass_id', $pass)->count();
    }

    /**
     * Records that a back-out left as they are.
     *
     * @return list<\stdClass> load_id, item, target_key, why
     */
    public static function leftBy(int $pass, int $most): array
    {
        return DB::table('left_records')->where('pass_id', $pass)->orderBy('load_id')->orderBy('item')->limit($most)->get()->all();
    }

    /** What records were before these passes is needed no more. */
    public function forget(): void
    {
        do {
            $n = DB::table('values_before')->whereIn('pass_id', $this->passes)->orderBy('id')->limit(self::DELETED_AT_ONCE)->delete();
        } while ($n === self::DELETED_AT_ONCE);
    }

    /**
     * References that were set to records that these passes made. Those of records that go too are cleared already.
     *
     * @param  list<string>  $removed  target keys of an entity
     * @return list<\stdClass> load_id, item, field, target_key
     */
    public function referencesTo(int $entity, array $removed): array
    {
        if ($removed === []) {
            return [];
        }
        // In this order whatever the server believes: there are few references, and statistics are those of empty tables.
        $found = DB::select(
            'SELECT l.load_id, l.item, l.field, l.target_key, o.pass_id, n.entity_id FROM outcomes p FORCE INDEX (target)
            STRAIGHT_JOIN loads f FORCE INDEX (PRIMARY) ON f.id = p.load_id AND f.entity_id = ?
            STRAIGHT_JOIN links l FORCE INDEX (of_parent)
                ON l.lane_id = p.lane_id AND l.parent_space_id = p.space_id AND l.parent_key = p.legacy_key AND l.state = ?
            STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = l.lane_id AND o.load_id = l.load_id AND o.item = l.item
            STRAIGHT_JOIN loads n FORCE INDEX (PRIMARY) ON n.id = l.load_id
            WHERE p.lane_id = ? AND p.target_key IN ('.implode(',', array_fill(0, count($removed), '?')).')',
            [$entity, LinkState::Made->value, $this->lane, ...$removed],
        );

        return array_values(array_filter($found, fn (\stdClass $l) => ! in_array((int) $l->pass_id, $this->passes, true)
            || isset($this->takenOver()["$l->entity_id $l->target_key"])));
    }

    /**
     * References of records of a stretch that these passes made.
     *
     * @return list<\stdClass> item, field, target_key
     */
    public function references(int $load, int $after, int $to): array
    {
        return DB::select(
            "SELECT l.item, l.field, l.target_key FROM links l FORCE INDEX (PRIMARY)
            STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = l.lane_id AND o.load_id = l.load_id AND o.item = l.item
            WHERE l.lane_id = ? AND l.load_id = ? AND l.item > ? AND l.item <= ? AND l.state = ? AND o.pass_id IN ({$this->ids()})",
            [$this->lane, $load, $after, $to, LinkState::Made->value],
        );
    }
}
