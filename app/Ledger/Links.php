<?php

namespace App\Ledger;

use App\Decisions\Numbers;
use App\Models\Load;
use App\Models\Round;
use App\Support\BulkRows;
use Baggage\Core\Loading\OpenReferences;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/** Reads and writes the references of a lane that are set once both records are in the target. */
final readonly class Links implements OpenReferences
{
    /** What a decision about a reference is about: its field and the parent it names. */
    private const HASH = "MD5(CONCAT_WS('\\x1F', 'open reference', l.field, l.parent_space_id, l.parent_key))";

    private const COLUMNS = '(lane_id, load_id, item, field, parent_space_id, parent_key, target_key, state)';

    public function __construct(private int $lane)
    {
    }

    /**
     * The references of some rows take the place of those they had.
     *
     * @param  list<int>  $rows
     * @param  string  $lines  as BulkRows writes them
     */
    public function replace(int $load, array $rows, string $lines, int $count): void
    {
        if ($count === 0) {
            return;
        }
        $this->forget($load, $rows);
        BulkRows::load(DB::connection(), 'links', self::COLUMNS, $lines, $count);
    }

    /** @param  list<int>  $rows  that stand on no record any more */
    public function forget(int $load, array $rows): void
    {
        DB::table('links')->where('lane_id', $this->lane)->where('load_id', $load)->whereIntegerInRaw('item', $rows)->delete();
    }

    /**
     * Their parents are there no more.
     *
     * @param  list<\stdClass>  $cleared  load_id, item, field
     */
    public function waitAgain(array $cleared): void
    {
        foreach ($cleared as $link) {
            DB::table('links')
                ->where(['lane_id' => $this->lane, 'load_id' => $link->load_id, 'item' => $link->item, 'field' => $link->field])
                ->update(['state' => LinkState::Waiting]);
        }
    }

    /** Those left open are set too, when their parent has come after all. */
    public function ready(int $load, string $field, int $after, int $most): array
    {
        // One index range for each state, in row order.
        $one = "(SELECT l.item, l.target_key AS child, p.target_key AS parent FROM links l FORCE INDEX (waiting)
            STRAIGHT_JOIN outcomes p FORCE INDEX (crosswalk) ON p.lane_id = l.lane_id
                AND p.space_id = l.parent_space_id AND p.legacy_key = l.parent_key AND p.stands = 1
            WHERE l.lane_id = ? AND l.state = ? AND l.load_id = ? AND l.field = ? AND l.item > ?
            ORDER BY l.item LIMIT $most)";
        $found = DB::select("$one UNION ALL $one ORDER BY item LIMIT $most", [
            ...[$this->lane, LinkState::Waiting->value, $load, $field, $after],
            ...[$this->lane, LinkState::Waived->value, $load, $field, $after],
        ]);

        return array_map(fn ($r) => [(int) $r->item, (string) $r->child, (string) $r->parent], $found);
    }

    public function made(int $load, string $field, array $rows): void
    {
        DB::table('links')
            ->where('lane_id', $this->lane)
            ->where('load_id', $load)
            ->where('field', $field)
            ->whereIntegerInRaw('item', $rows)
            ->update(['state' => LinkState::Made]);
    }

    /** @return list<\stdClass> load_id, load, field, made, waiting, waived: how many of each load and field */
    public function counts(): array
    {
        return DB::select(
            'SELECT l.load_id, n.name AS `load`, l.field, SUM(l.state = ?) AS made, SUM(l.state = ?) AS waiting, SUM(l.state = ?) AS waived
            FROM links l JOIN loads n ON n.id = l.load_id WHERE l.lane_id = ?
            GROUP BY l.load_id, n.name, l.field ORDER BY l.load_id, l.field',
            [LinkState::Made->value, LinkState::Waiting->value, LinkState::Waived->value, $this->lane],
        );
    }

    /**
     * References that wait or were left open, by the index: those that are set are many, and are counted by CountRound.
     *
     * @return list<\stdClass> load_id, field, waiting, waived
     */
    public function open(): array
    {
        return DB::select(
            'SELECT load_id, field, SUM(state = ?) AS waiting, SUM(state = ?) AS waived
            FROM links FORCE INDEX (waiting) WHERE lane_id = ? AND state IN (?, ?) GROUP BY load_id, field ORDER BY load_id, field',
            [LinkState::Waiting->value, LinkState::Waived->value, $this->lane, LinkState::Waiting->value, LinkState::Waived->value],
        );
    }

    public function waitingOf(int $load, string $field): int
    {
        return $this->ofField($load, $field, LinkState::Waiting)->count();
    }

    /** References that wait, in all loads of the lane. */
    public function waiting(): int
    {
        return DB::table('links')->where('lane_id', $this->lane)->where('state', LinkState::Waiting)->count();
    }

    /**
     * References that wait stay open for good, in later rounds too.
     *
     * @return int how many
     */
    public function waive(Round $round, int $load, string $field, string $reason): int
    {
        return DB::transaction(function () use ($round, $load, $field, $reason) {
            DB::statement(
                'INSERT INTO waivers (load_id, round_id, legacy_key, cause_hash, reason, user_id, decision, created_at, updated_at)
                SELECT l.load_id, ?, o.legacy_key, '.self::HASH.', ?, ?, ?, NOW(), NOW() FROM links l
                STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = l.lane_id AND o.load_id = l.load_id AND o.item = l.item
                WHERE l.lane_id = ? AND l.state = ? AND l.load_id = ? AND l.field = ?',
                [$round->id, $reason, Auth::id(), Numbers::next($round->migration_id, 'waiver'),
                    $this->lane, LinkState::Waiting->value, $load, $field],
            );

            return $this->ofField($load, $field, LinkState::Waiting)->update(['state' => LinkState::Waived]);
        });
    }

    /** What was left open in an earlier round is left open in this one. */
    public function leaveOpen(): void
    {
        DB::statement(
            'UPDATE links l
            STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = l.lane_id AND o.load_id = l.load_id AND o.item = l.item
            STRAIGHT_JOIN waivers w FORCE INDEX (by_key) ON w.load_id = l.load_id AND w.cause_hash = '.self::HASH.'
                AND w.legacy_key = o.legacy_key AND w.ended = 0
            SET l.state = ? WHERE l.lane_id = ? AND l.state = ?',
            [LinkState::Waived->value, $this->lane, LinkState::Waiting->value],
        );
    }

    private function ofField(int $load, string $field, LinkState $state): Builder
    {
        return DB::table('links')
            ->where('lane_id', $this->lane)
            ->where('state', $state)
            ->where('load_id', $load)
            ->where('field', $field);
    }

    /** @return list<\stdClass> field, parent_key, state, and why it was left open */
    public function of(Load $load, int $row): array
    {
        $links = DB::select(
            'SELECT l.field, l.parent_key, l.state, (SELECT MAX(w.reason) FROM waivers w FORCE INDEX (newest)
                WHERE w.load_id = l.load_id AND w.ended = 0
                AND w.cause_hash = '.self::HASH.') AS reason FROM links l WHERE l.lane_id = ? AND l.load_id = ? AND l.item = ?',
            [$this->lane, $load->id, $row],
        );
        foreach ($links as $link) {
            $link->state = LinkState::from($link->state);
        }

        return $links;
    }

    /**
     * References to rows that get other legacy keys in a pass wait for these.
     *
     * @param  'old_key'|'new_key'  $from  which key of the pass they have
     * @param  'old_key'|'new_key'  $to
     */
    public function followKeys(int $pass, string $from, string $to): void
    {
        DB::update(
            "UPDATE new_keys n STRAIGHT_JOIN round_loads s ON s.load_id = n.load_id
            STRAIGHT_JOIN lanes a ON a.id = ? AND a.round_id = s.round_id
            STRAIGHT_JOIN links l FORCE INDEX (of_parent)
                ON l.lane_id = a.id AND l.parent_space_id = s.space_id AND l.parent_key = n.$from
            SET l.parent_key = n.$to WHERE n.pass_id = ? AND n.stands = 1",
            [$this->lane, $pass],
        );
    }
}
