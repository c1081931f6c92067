<?php

namespace App\Ledger;

use Baggage\Core\Mapping\GonePolicy;
use Illuminate\Support\Facades\DB;

/**
 * What a dry run of a delta is about: rows a delta would look at anew, and those that are delivered no more. Nothing of the lane is
 * touched.
 */
final readonly class DryDelta
{
    private const STRETCH = 50_000;

    private const BESIDE = "('gone', 'review', 'withdrawn')";

    public function __construct(private int $run, private int $lane)
    {
    }

    /**
     * Rows of a load that differ from what the lane knows of them, and new ones.
     *
     * @param  int  $from  the take the round works on
     * @param  list<int>  $stale  passes that went by other rules than those of now
     */
    public function gather(int $load, int $from, int $to, int $last, array $stale, bool $all): void
    {
        $isStale = $stale === [] ? '0' : 'COALESCE(o.seen_by, o.pass_id) IN ('.implode(',', $stale).')';
        $isMapped = $all ? '1' : "a.hash <> b.hash OR a.hash IS NULL OR o.item IS NULL
            OR o.outcome IN ('rejected', 'held', 'waived', 'pending', 'gone', 'review', 'withdrawn') OR $isStale";
        for ($after = 0; $after < $last; $after += self::STRETCH) {
            $upto = min($last, $after + self::STRETCH);
            DB::insert(
                "INSERT IGNORE INTO dry_tries SELECT ?, ?, b.row_no FROM staged_rows b FORCE INDEX (PRIMARY)
                LEFT JOIN staged_rows a FORCE INDEX (PRIMARY) ON a.take_id = ? AND a.row_no = b.row_no
                LEFT JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = ? AND o.load_id = ? AND o.item = b.row_no
                WHERE b.take_id = ? AND b.row_no > ? AND b.row_no <= ? AND ($isMapped)",
                [$this->run, $load, $from, $this->lane, $load, $to, $after, $upto],
            );
            $this->corrected($load, $from, $to, $after, $upto);
        }
    }

    /** What was corrected, or let go, since the row was last looked at; where another take was read all of it. */
    private function corrected(int $load, int $from, int $to, int $after, int $upto): void
    {
        $rows = DeltaBook::decided($this->lane, $load, [$to, $from], $after, $upto, $from !== $to);
        (new DryTries($this->run, $this->lane))->rows($load, $rows);
    }

    /** Lines of rows that are delivered no more, as a delta would leave them: their records go after everything else. */
    public function leave(int $load, int $take, GonePolicy $policy): void
    {
        $becomes = match ($policy) {
            GonePolicy::Keep => 'gone',
            GonePolicy::Review => 'review',
            GonePolicy::Remove => 'withdrawn',
        };
        $left = $policy === GonePolicy::Remove ? '' : ' AND o.outcome NOT IN '.self::BESIDE;
        DB::insert(
            "INSERT INTO dry_rows (dry_run_id, load_id, item, space_id, legacy_key, stands, outcome, target_key, was)
            SELECT ?, o.load_id, o.item, o.space_id, o.legacy_key, IF(o.outcome = 'merged', NULL, o.stands),
                IF(o.target_key IS NULL OR o.outcome IN ('merged', 'removed'), 'withdrawn', '$becomes'),
                IF(o.outcome IN ('merged', 'removed'), NULL, o.target_key), o.outcome
            FROM outcomes o FORCE INDEX (PRIMARY)
            LEFT JOIN staged_rows b FORCE INDEX (PRIMARY) ON b.take_id = ? AND b.row_no = o.item
            WHERE o.lane_id = ? AND o.load_id = ? AND b.row_no IS NULL AND NOT (o.outcome = 'withdrawn' AND o.target_key IS NULL)$left",
            [$this->run, $take, $this->lane, $load],
        );
    }

    /** Rows merged into others that go look anew whose record theirs is. */
    public function members(int $load): void
    {
        DB::insert(
            'INSERT IGNORE INTO dry_tries SELECT ?, m.load_id, m.item FROM dry_rows d
            STRAIGHT_JOIN outcomes m FORCE INDEX (target) ON m.lane_id = ? AND m.target_key = d.target_key
                AND m.space_id = d.space_id AND m.outcome = \'merged\'
            LEFT JOIN dry_rows g ON g.dry_run_id = d.dry_run_id AND g.load_id = m.load_id AND g.item = m.item
            WHERE d.dry_run_id = ? AND d.load_id = ? AND d.outcome IN '.self::BESIDE." AND d.was <> 'merged' AND g.item IS NULL",
            [$this->run, $this->lane, $this->run, $load],
        );
    }

    /** What a load put over records that would change it would put over them again. */
    public function again(int $load, int $entity): void
    {
        DB::insert(
            "INSERT IGNORE INTO dry_tries SELECT ?, o.load_id, o.item FROM dry_rows d
            STRAIGHT_JOIN loads n FORCE INDEX (PRIMARY) ON n.id = d.load_id AND n.entity_id = ?
            STRAIGHT_JOIN outcomes o FORCE INDEX (target) ON o.lane_id = ? AND o.target_key = d.target_key AND o.load_id = ?
            WHERE d.dry_run_id = ? AND d.changes IS NOT NULL AND o.stands IS NULL AND o.outcome IN ('updated', 'unchanged')",
            [$this->run, $entity, $this->lane, $load, $this->run],
        );
    }

    /**
     * Target keys that keys of an entity lead to, and would not any more, those after one in their order.
     *
     * @return list<string>
     */
    public function moved(int $entity, string $after, int $most): array
    {
        return array_map(fn (\stdClass $r) => (string) $r->target_key, DB::select(
            "SELECT DISTINCT o.target_key FROM dry_rows d
            STRAIGHT_JOIN loads n FORCE INDEX (PRIMARY) ON n.id = d.load_id AND n.entity_id = ?
            STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = ? AND o.load_id = d.load_id AND o.item = d.item
            WHERE d.dry_run_id = ? AND o.stands = 1 AND o.target_key > ? AND (d.target_key IS NULL OR d.target_key <> o.target_key
                OR d.legacy_key <> o.legacy_key OR d.outcome = 'withdrawn')
            ORDER BY o.target_key LIMIT $most",
            [$entity, $this->lane, $this->run, $after],
        ));
    }

    /**
     * Rows of a load that stand on some records, or found them by key.
     *
     * @param  non-empty-list<string>  $keys  target keys
     */
    public function onRecords(int $load, array $keys): void
    {
        DB::insert(
            'INSERT IGNORE INTO dry_tries SELECT ?, o.load_id, o.item FROM outcomes o FORCE INDEX (target)
            WHERE o.lane_id = ? AND o.target_key IN ('.implode(',', array_fill(0, count($keys), '?')).') AND o.load_id = ?
            AND o.outcome NOT IN '.self::BESIDE,
            [$this->run, $this->lane, ...$keys, $load],
        );
    }

    /**
     * Rows that would be new to the lane.
     *
     * @return list<int> those after one
     */
    public function added(int $load, int $after, int $most): array
    {
        return array_map(fn (\stdClass $r) => (int) $r->item, DB::select(
            'SELECT t.item FROM dry_tries t FORCE INDEX (PRIMARY)
            LEFT JOIN outcomes o FORCE INDEX (PRIMARY) ON o.lane_id = ? AND o.load_id = t.load_id AND o.item = t.item
            WHERE t.dry_run_id = ? AND t.load_id = ? AND t.item > ? AND o.item IS NULL ORDER BY t.item LIMIT '.$most,
            [$this->lane, $this->run, $load, $after],
        ));
    }
}
