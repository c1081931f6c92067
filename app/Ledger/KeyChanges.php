<?php

namespace App\Ledger;

use App\Support\BulkRows;
use Baggage\Core\Crosswalks\LegacyKey;
use Illuminate\Support\Facades\DB;

/**
 * Legacy keys of a lane's rows that are stated another way since: one table of old and new keys, made and checked before any line is
 * touched, so that they are all new or all old whatever happens.
 */
final readonly class KeyChanges
{
    private const COLUMNS = '(pass_id, load_id, item, old_key, new_key, stands)';

    public function __construct(private int $pass, private int $lane)
    {
    }

    /**
     * Keys of the lines of a stretch.
     *
     * @return array<int, array{string, bool}> row → its key, and whether it stands for a record
     */
    public function lines(int $load, int $after, int $to): array
    {
        return DB::table('outcomes')->forceIndex('PRIMARY')->where('lane_id', $this->lane)->where('load_id', $load)
            ->where('item', '>', $after)->where('item', '<=', $to)->get(['item', 'legacy_key', 'stands'])
            ->mapWithKeys(fn (\stdClass $o) => [(int) $o->item => [(string) $o->legacy_key, $o->stands !== null]])->all();
    }

    public function last(int $load): int
    {
        return (int) DB::table('outcomes')->where('lane_id', $this->lane)->where('load_id', $load)->max('item');
    }

    /** @param  array<int, array{string, string, bool}>  $keys  row → old key, new key, whether it stands for a record */
    public function put(int $load, array $keys): void
    {
        $lines = '';
        foreach ($keys as $item => [$old, $new, $stands]) {
            $lines .= BulkRows::line([$this->pass, $load, $item, $old, mb_substr($new, 0, LegacyKey::LONGEST), $stands ? 1 : null]);
        }
        BulkRows::loadNew(DB::connection(), 'new_keys', self::COLUMNS, $lines);
    }

    /** @return string|null what is in the way of the new keys, in words */
    public function conflict(): ?string
    {
        $blank = DB::table('new_keys')->where('pass_id', $this->pass)->where('stands', 1)->where('new_key', '')->first();
        if ($blank !== null) {
            return "Row $blank->item of {$this->name($blank->load_id)} has no legacy key any more: it was "
                .LegacyKey::show($blank->old_key);
        }
        $loads = 'SELECT DISTINCT k.load_id FROM new_keys k WHERE k.pass_id = ?';
        $twice = DB::selectOne(
            "SELECT space_id, k, COUNT(*) AS n FROM (
                SELECT o.space_id, n.new_key AS k FROM new_keys n STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY)
                    ON o.lane_id = ? AND o.load_id = n.load_id AND o.item = n.item WHERE n.pass_id = ? AND n.stands = 1
                UNION ALL SELECT o.space_id, o.legacy_key FROM outcomes o
                    LEFT JOIN new_keys n FORCE INDEX (PRIMARY) ON n.pass_id = ? AND n.load_id = o.load_id AND n.item = o.item
                    WHERE o.lane_id = ? AND o.stands = 1 AND n.item IS NULL
                    AND o.space_id IN (SELECT p.space_id FROM outcomes p WHERE p.lane_id = ? AND p.load_id IN ($loads))
            ) all_keys GROUP BY space_id, k HAVING COUNT(*) > 1 LIMIT 1",
            [$this->lane, $this->pass, $this->pass, $this->lane, $this->lane, $this->pass],
        );
        if ($twice === null) {
            return null;
        }
        $rows = DB::table('new_keys')->where('pass_id', $this->pass)->where('stands', 1)->where('new_key', $twice->k)->limit(3)->get();
        $said = $rows->map(fn (\stdClass $r) => "row $r->item of {$this->name($r->load_id)}, which was ".LegacyKey::show($r->old_key));

        return 'Two rows that stand would have the legacy key '.LegacyKey::show($twice->k).": {$said->join('; ')}";
    }

    private function name(int $load): string
    {
        return (string) DB::table('loads')->where('id', $load)->value('name');
    }

    /** All lines, references that wait for them, and waivers have the new keys, or none has. */
    public function apply(): void
    {
        DB::transaction(function () {
            $lines = 'new_keys n STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY)
                ON o.lane_id = ? AND o.load_id = n.load_id AND o.item = n.item';
            $which = 'WHERE n.pass_id = ?';
            $of = [$this->lane, $this->pass];
            (new Links($this->lane))->followKeys($this->pass, 'old_key', 'new_key');
            WaiverBook::followKeys($this->pass, 'old_key', 'new_key');
            // Keys may change places: none stands while they do.
            DB::update("UPDATE $lines SET o.legacy_key = n.new_key, o.stands = IF(o.stands = 1, 2, NULL) $which", $of);
            DB::update("UPDATE $lines SET o.stands = 1 $which AND o.stands = 2", $of);
            DB::table('passes')->where('id', $this->pass)->update(['has_new_keys' => true]);
        });
    }

    public function forget(): void
    {
        DB::table('new_keys')->where('pass_id', $this->pass)->delete();
    }

    /**
     * Rows have the keys again they had before a pass.
     *
     * @param  list<int>  $passes
     */
    public static function reverse(int $lane, array $passes): void
    {
        foreach (DB::table('passes')->whereIn('id', $passes)->where('has_new_keys', true)->orderByDesc('id')->pluck('id') as $pass) {
            DB::transaction(fn () => (new self((int) $pass, $lane))->takeBack());
        }
    }

    private function takeBack(): void
    {
        $lines = 'new_keys n STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = ? AND o.load_id = n.load_id AND o.item = n.item';
        $of = [$this->lane, $this->pass];
        (new Links($this->lane))->followKeys($this->pass, 'new_key', 'old_key');
        WaiverBook::followKeys($this->pass, 'new_key', 'old_key');
        // Rows that stand by their new keys alone, or came since, are taken back too.
        $stands = 'IF(o.stands = 1 AND n.stands = 1, 2, NULL)';
        DB::update("UPDATE $lines SET o.legacy_key = n.old_key, o.stands = $stands WHERE n.pass_id = ?", $of);
        DB::update('UPDATE new_keys n STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY)
                ON o.lane_id = ? AND o.load_id = n.load_id AND o.item = n.item
            STRAIGHT_JOIN outcomes x FORCE INDEX (crosswalk)
                ON x.lane_id = o.lane_id AND x.space_id = o.space_id AND x.legacy_key = n.old_key AND x.stands = 1
            SET x.stands = NULL WHERE n.pass_id = ? AND o.stands = 2', $of);
        DB::update("UPDATE $lines SET o.stands = 1 WHERE n.pass_id = ? AND o.stands = 2", $of);
        DB::table('passes')->where('id', $this->pass)->update(['has_new_keys' => false]);
    }

    /**
     * Keys rows had before some passes.
     *
     * @param  list<int>  $passes
     * @param  list<int>  $items
     * @return array<int, string> row → key, of those whose key the passes changed
     */
    public static function before(int $load, array $passes, array $items): array
    {
        return $items === [] ? [] : DB::table('new_keys')->whereIn('pass_id', $passes)->where('load_id', $load)
            ->whereIntegerInRaw('item', $items)->orderByDesc('pass_id')->pluck('old_key', 'item')->map(strval(...))->all();
    }
}
