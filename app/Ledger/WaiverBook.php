<?php

namespace App\Ledger;

use App\Decisions\Numbers;
use App\Decisions\RowKeys;
use App\Models\Load;
use App\Models\Round;
use App\Models\Take;
use App\Models\Waiver;
use Baggage\Core\Loading\Waivers;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Outcome;
use Illuminate\Database\Eloquent\Builder as EloquentBuilder;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\LazyCollection;

/** Reads and writes what was decided to stay behind. A waiver follows its row into later takes and rounds. */
final readonly class WaiverBook implements Waivers
{
    private const AT_ONCE = 1000;

    private const COLUMNS = [
        'load_id', 'round_id', 'legacy_key', 'row_key_id', 'cause_hash', 'reason', 'user_id', 'decision', 'created_at', 'updated_at',
    ];

    /**
     * @param  int  $decision  the number of the last decision that counts
     * @param  Round|null  $cutover  where those of other rounds count only once they were confirmed for it
     */
    public function __construct(private int $load, private int $take, private int $decision, private ?Round $cutover)
    {
    }

    public function covering(array $rejected): array
    {
        $byKey = $byRow = [];
        foreach ($rejected as $journey) {
            if ($journey->cause !== null && ($journey->legacyKey === '' || Cause::isAboutKey($journey->cause->code))) {
                $byRow[$journey->row] = $journey->cause->decided();
            } elseif ($journey->cause !== null) {
                $byKey[$journey->cause->decided()][$journey->legacyKey][] = $journey->row;
            }
        }

        return [...$this->withKey($byKey), ...$this->withRow($byRow)];
    }

    /**
     * The rows of a lane that are rejected for a cause stay behind.
     *
     * @param  int|null  $row  only this one of them
     * @return int how many
     */
    public static function write(Round $round, Load $load, int $cause, string $reason, ?int $row = null): int
    {
        return DB::transaction(function () use ($round, $load, $cause, $reason, $row) {
            $of = (object) DB::table('causes')->where('load_id', $load->id)->where('lane_id', $round->laneId())->find($cause);
            if (! isset($of->waive_hash)) {
                return 0;
            }
            $number = Numbers::next($round->migration_id, 'waiver');
            $now = now()->format('Y-m-d H:i:s');
            $same = [$of->waive_hash, $reason, Auth::id(), $number, $now, $now];
            $rejected = fn () => self::lines($round->laneId(), $load->id, $cause, Outcome::Rejected)
                ->when($row !== null, fn (Builder $q) => $q->where('o.item', $row));
            $byKey = fn (Builder $q) => $q->where('o.legacy_key', '<>', '');
            if (! Cause::isAboutKey($of->code)) {
                DB::table('waivers')->insertUsing(
                    self::COLUMNS,
                    $rejected()->tap($byKey)->selectRaw('o.load_id, ?, o.legacy_key, NULL, ?, ?, ?, ?, ?, ?', [$round->id, ...$same]),
                );
            }
            $rest = $rejected()->when(! Cause::isAboutKey($of->code), fn (Builder $q) => $q->where('o.legacy_key', ''))->orderBy('o.item');
            $take = $round->roundLoads()->where('load_id', $load->id)->with('take')->firstOrFail()->take;
            self::writeRows($take, $rest, [$load->id, $round->id], $same);

            return $row === null
                ? (new LedgerWriter)->waive($round->laneId(), $load->id, $cause)
                : (new LedgerWriter)->waiveRows($round->laneId(), $load->id, [$row]);
        });
    }

    /** Rows waived for a cause are rejected again: @return int how many */
    public static function takeBack(Round $round, Load $load, int $cause): int
    {
        return DB::transaction(function () use ($round, $load, $cause) {
            $of = DB::table('causes')->where('load_id', $load->id)->where('lane_id', $round->laneId());
            $hash = $of->where('id', $cause)->value('waive_hash');
            $number = Numbers::next($round->migration_id, 'waiver taken back');
            Waiver::query()->where('load_id', $load->id)->where('cause_hash', $hash)->update(['ended' => $number]);

            return (new LedgerWriter)->takeBack($round->laneId(), $load->id, $cause);
        });
    }

    /**
     * Waivers made with some numbers count no longer, and rows they left behind in rounds that go on are rejected again.
     *
     * @param  list<int>  $numbers
     * @return int how many waivers
     */
    public static function undo(int $migration, array $numbers): int
    {
        return DB::transaction(function () use ($migration, $numbers) {
            foreach (self::leftBehindBy($numbers)->chunk(self::AT_ONCE) as $some) {
                foreach ($some->groupBy(fn ($r) => "$r->lane_id $r->load_id") as $of) {
                    $first = $of->first() ?? throw new \LogicException('A group has a line.');
                    $items = array_values($of->map(fn ($r) => (int) $r->item)->all());
                    (new LedgerWriter)->rejectRows((int) $first->lane_id, (int) $first->load_id, $items);
                }
            }
            $number = Numbers::next($migration, 'waiver taken back');

            return Waiver::query()->whereIntegerInRaw('decision', $numbers)->update(['ended' => $number]);
        });
    }

    /**
     * @param  list<int>  $numbers
     * @return LazyCollection<int, \stdClass> lane_id, load_id, item of rows in rounds that go on
     */
    private static function leftBehindBy(array $numbers): LazyCollection
    {
        $of = fn (string $row) => DB::query()
            ->fromRaw(
                "waivers w STRAIGHT_JOIN rounds m ON m.id = w.round_id AND m.ended_as IS NULL
                STRAIGHT_JOIN lanes n ON n.round_id = w.round_id
                STRAIGHT_JOIN round_loads l ON l.round_id = w.round_id AND l.load_id = w.load_id $row
                STRAIGHT_JOIN row_causes r FORCE INDEX (PRIMARY) ON r.lane_id = o.lane_id AND r.load_id = o.load_id AND r.item = o.item
                STRAIGHT_JOIN causes c FORCE INDEX (PRIMARY) ON c.id = r.cause_id AND c.waive_hash = w.cause_hash",
            )
            ->whereIntegerInRaw('w.decision', $numbers)
            ->where('w.ended', 0)
            ->where('o.outcome', Outcome::Waived->value)
            ->select('o.lane_id', 'o.load_id', 'o.item')
            ->cursor();

        return $of('STRAIGHT_JOIN outcomes o FORCE INDEX (crosswalk) ON o.lane_id = n.id AND o.space_id = l.space_id
                AND o.legacy_key = w.legacy_key AND o.load_id = w.load_id')
            ->concat($of('STRAIGHT_JOIN row_places p FORCE INDEX (PRIMARY) ON p.row_key_id = w.row_key_id AND p.take_id = l.take_id
                STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = n.id AND o.load_id = w.load_id AND o.item = p.row_no'));
    }

    /**
     * Lines rows had once, as people decided about them since: by their legacy key.
     *
     * @param  array<int, \stdClass>  $lines  by row, with outcome and cause_id
     * @param  array<int, string>  $keys  row → legacy key
     * @return array<int, \stdClass> the same, rejected or left behind as it counts now
     */
    public static function asDecided(int $load, array $lines, array $keys): array
    {
        $some = array_filter($lines, fn (\stdClass $l) => in_array($l->outcome, [Outcome::Rejected->value, Outcome::Waived->value], true)
            && $l->cause_id !== null);
        $causes = $some === [] ? [] : DB::table('causes')->whereIntegerInRaw('id', array_column($some, 'cause_id'))
            ->get(['id', 'code', 'waive_hash'])->keyBy('id')->all();
        $wanted = array_values(array_unique(array_map(fn (int $row) => $keys[$row] ?? '', array_keys($some))));
        $covered = $some === [] ? [] : DB::table('waivers')->where('load_id', $load)->where('ended', 0)
            ->whereIn('cause_hash', array_column($causes, 'waive_hash'))->whereIn('legacy_key', $wanted)
            ->selectRaw("CONCAT(cause_hash, ' ', legacy_key) AS k")->pluck('k', 'k')->all();
        foreach ($some as $row => $line) {
            $cause = $causes[(int) $line->cause_id] ?? null;
            if ($cause !== null && ($keys[$row] ?? '') !== '' && ! Cause::isAboutKey($cause->code)) {
                $isCovered = isset($covered["$cause->waive_hash $keys[$row]"]);
                $line->outcome = ($isCovered ? Outcome::Waived : Outcome::Rejected)->value;
            }
        }

        return $lines;
    }

    /**
     * Waivers of other rounds that would cover rows of a cutover.
     *
     * @return list<\stdClass> load_id, cause_id, message, value, n, reason, who, created_at
     */
    public static function toConfirm(Round $round): array
    {
        if ($round->kind !== 'cutover') {
            return [];
        }

        return self::carried($round)
            ->groupBy('o.load_id', 'r.cause_id')
            ->selectRaw('o.load_id, r.cause_id, MIN(c.message) AS message, MIN(c.value) AS value, COUNT(DISTINCT o.item) AS n')
            ->selectRaw('MIN(w.reason) AS reason, MIN(u.name) AS who, MIN(w.created_at) AS created_at')
            ->get()
            ->all();
    }

    /** All of them count in this round from now on: @return int rows that are waived by it */
    public static function confirm(Round $round): int
    {
        return DB::transaction(function () use ($round) {
            $n = 0;
            foreach (self::carried($round)->select('o.load_id', 'o.item')->distinct()->get()->groupBy('load_id') as $load => $rows) {
                foreach ($rows->pluck('item')->chunk(self::AT_ONCE) as $some) {
                    $n += (new LedgerWriter)->waiveRows($round->laneId(), (int) $load, array_values($some->all()));
                }
            }
            $round->update(['waivers_upto' => Numbers::next($round->migration_id, 'waivers confirmed')]);

            return $n;
        });
    }

    /**
     * @param  Round  $round  that is looked at: in one that ended those count that counted then
     * @param  list<array{int, string}>  $of  load and hash of each cause
     * @return array<string, Waiver> "load hash" → the newest waiver that counts, with its user
     */
    public static function newest(Round $round, array $of): array
    {
        $upto = $round->ended_with;
        $parts = null;
        foreach (array_unique($of, SORT_REGULAR) as [$load, $hash]) {
            $one = DB::table('waivers')
                ->where('load_id', $load)
                ->where('cause_hash', $hash)
                ->when($upto === null, fn (Builder $q) => $q->where('ended', 0))
                ->when($upto !== null, fn (Builder $q) => $q->whereRaw('decision <= ? AND (ended = 0 OR ended > ?)', [$upto, $upto]))
                ->orderByDesc('decision')
                ->limit(1)
                ->select('id');
            $parts = $parts?->unionAll($one) ?? $one;
        }
        $ids = $parts?->pluck('id') ?? collect();
        $found = $ids->isEmpty() ? [] : Waiver::query()->withoutGlobalScopes()->whereIn('id', $ids)->with('user')->get()->all();

        return array_combine(array_map(fn (Waiver $w) => "$w->load_id $w->cause_hash", $found), $found);
    }

    /** Why a row was left behind, in words; null where nobody decided it. */
    public static function about(Round $round, int $load, string $key, int $cause): ?Waiver
    {
        return self::of($round)
            ->where('load_id', $load)
            ->where('cause_hash', DB::table('causes')->where('id', $cause)->value('waive_hash'))
            ->whereRaw('(legacy_key = ? OR row_key_id IS NOT NULL)', [$key])
            ->with('user')
            ->orderByDesc('decision')
            ->first();
    }

    /** @return EloquentBuilder<Waiver> */
    private static function of(Round $round): EloquentBuilder
    {
        $upto = $round->ended_with;

        return $upto === null ? Waiver::query() : Waiver::query()
            ->withoutGlobalScopes()
            ->whereRaw('decision <= ? AND (ended = 0 OR ended > ?)', [$upto, $upto]);
    }

    /**
     * @param  array<string, array<array-key, list<int>>>  $causes  hash → legacy key → rows
     * @return list<int>
     */
    private function withKey(array $causes): array
    {
        $rows = [];
        foreach ($causes as $hash => $keys) {
            foreach (array_chunk($keys, self::AT_ONCE, true) as $some) {
                $found = $this->counting(DB::table('waivers'))
                    ->where('cause_hash', $hash)
                    ->whereIn('legacy_key', array_map(strval(...), array_keys($some)))
                    ->pluck('legacy_key');
                foreach ($found->unique() as $key) {
                    array_push($rows, ...$some[$key]);
                }
            }
        }

        return $rows;
    }

    /**
     * @param  array<int, string>  $causes  row → hash
     * @return list<int>
     */
    private function withRow(array $causes): array
    {
        if ($causes === []) {
            return [];
        }
        $found = $this->counting(DB::table('row_places')->join('waivers', 'waivers.row_key_id', '=', 'row_places.row_key_id'))
            ->where('row_places.take_id', $this->take)
            ->whereIntegerInRaw('row_places.row_no', array_keys($causes))
            ->get(['row_places.row_no', 'waivers.cause_hash']);

        $covered = $found->filter(fn ($w) => $causes[$w->row_no] === $w->cause_hash);

        return $covered->map(fn ($w) => (int) $w->row_no)->unique()->values()->all();
    }

    private function counting(Builder $waivers): Builder
    {
        return $waivers
            ->where('waivers.load_id', $this->load)
            ->where('waivers.decision', '<=', $this->decision)
            ->where(fn (Builder $q) => $q->where('waivers.ended', 0)->orWhere('waivers.ended', '>', $this->decision))
            ->when($this->cutover !== null, fn (Builder $q) => $q->where(fn (Builder $w) => $w
                ->where('waivers.round_id', $this->cutover?->id)
                ->orWhere('waivers.decision', '<=', (int) $this->cutover?->waivers_upto)));
    }

    /** Rejected rows of a cutover that a waiver of another round covers which nobody confirmed. */
    private static function carried(Round $round): Builder
    {
        return DB::table('outcomes as o')
            ->join('row_causes as r', fn ($j) => $j
                ->on('r.lane_id', '=', 'o.lane_id')
                ->on('r.load_id', '=', 'o.load_id')
                ->on('r.item', '=', 'o.item'))
            ->join('causes as c', 'c.id', '=', 'r.cause_id')
            ->join('round_loads as l', fn ($j) => $j->on('l.load_id', '=', 'o.load_id')->where('l.round_id', $round->id))
            ->join('waivers as w', fn ($j) => $j->on('w.load_id', '=', 'o.load_id')->on('w.cause_hash', '=', 'c.waive_hash'))
            ->leftJoin('row_places as p', fn ($j) => $j
                ->on('p.row_key_id', '=', 'w.row_key_id')
                ->on('p.take_id', '=', 'l.take_id'))
            ->leftJoin('users as u', 'u.id', '=', 'w.user_id')
            ->where('o.lane_id', $round->laneId())
            ->where('o.outcome', Outcome::Rejected->value)
            ->where('w.ended', 0)
            ->where('w.round_id', '<>', $round->id)
            ->where('w.decision', '>', $round->waivers_upto)
            ->where(fn (Builder $q) => $q->whereColumn('w.legacy_key', 'o.legacy_key')->orWhereColumn('p.row_no', 'o.item'));
    }

    /**
     * @param  array{int, int}  $of  load and round
     * @param  list<mixed>  $same  what all of them have
     */
    private static function writeRows(Take $take, Builder $lines, array $of, array $same): void
    {
        for ($after = 0; ; $after = end($rows)) {
            $rows = (clone $lines)->where('o.item', '>', $after)->limit(self::AT_ONCE)->pluck('o.item')->map(fn ($n) => (int) $n)->all();
            if ($rows === []) {
                return;
            }
            DB::table('waivers')->insert(array_map(
                fn (int $key) => array_combine(self::COLUMNS, [...$of, null, $key, ...$same]),
                array_values(RowKeys::of($take, $rows)),
            ));
        }
    }

    private static function lines(int $lane, int $load, int $cause, Outcome $outcome): Builder
    {
        return DB::table('outcomes as o')
            ->join('row_causes as r', fn ($j) => $j
                ->on('r.lane_id', '=', 'o.lane_id')
                ->on('r.load_id', '=', 'o.load_id')
                ->on('r.item', '=', 'o.item'))
            ->where('o.lane_id', $lane)
            ->where('o.load_id', $load)
            ->where('r.cause_id', $cause)
            ->where('o.outcome', $outcome->value);
    }

    /**
     * Waivers of rows that get other legacy keys in a pass hold for these.
     *
     * @param  'old_key'|'new_key'  $from  which key of the pass they have
     * @param  'old_key'|'new_key'  $to
     */
    public static function followKeys(int $pass, string $from, string $to): void
    {
        $index = $from === 'old_key' ? 'by_old' : 'by_new';
        DB::update(
            "UPDATE (SELECT DISTINCT load_id FROM new_keys WHERE pass_id = ?) k
            STRAIGHT_JOIN waivers w FORCE INDEX (by_key) ON w.load_id = k.load_id
            STRAIGHT_JOIN new_keys n FORCE INDEX ($index) ON n.pass_id = ? AND n.$from = w.legacy_key AND n.load_id = w.load_id
            SET w.legacy_key = n.$to",
            [$pass, $pass],
        );
    }
}
