<?php

namespace Tests\Support;

use App\Models\Round;
use Illuminate\Support\Facades\DB;

/**
 * Makes a loaded round many times as large, in place and by SQL alone: each row of a feed, with its outcome, cause, link and place in
 * the column values, again and again under other numbers and keys. Statistics of the server stay what they were, as on a database
 * that was filled this minute.
 */
final class Multiplied
{
    /** Numbers of copies lie so far apart. */
    private const APART = 1_000_000;

    /**
     * @param  int  $times  copies beside each row
     * @param  int  $causes  so many causes of rejected rows there are at least, each of its own value
     * @param  int  $rejected  so many rows are rejected at least
     */
    public static function round(Round $round, int $times, int $causes = 0, int $rejected = 0): void
    {
        $lane = $round->laneId();
        // All in one: what hangs on keys of others is copied alike.
        DB::transaction(function () use ($round, $lane, $times, $causes, $rejected) {
            self::rows($round, $times);
            $at = 'item + n.seq * '.self::APART;
            self::copy('outcomes', "lane_id, load_id, $at, space_id, CONCAT(LEFT(legacy_key, 170), '~', n.seq), stands, outcome,
                IF(target_key IS NULL, NULL, CONCAT(LEFT(target_key, 170), '~', n.seq)), sent_hash, pass_id, NULL", $lane, $times);
            self::copy('row_causes', "lane_id, load_id, $at, cause_id, root_cause_id", $lane, $times);
            self::copy('links', "lane_id, load_id, $at, field, parent_space_id, parent_key, target_key, state", $lane, $times);
            foreach (['tallies', 'cause_tallies'] as $table) {
                DB::update("UPDATE $table SET n = n * ? WHERE lane_id = ?", [$times + 1, $lane]);
            }
            DB::update('UPDATE round_loads SET feed_rows = feed_rows * ?, source_rows = source_rows * ? WHERE round_id = ?', [
                $times + 1, $times + 1, $round->id,
            ]);
            self::rejected($round, $times, $rejected);
            self::causes($lane, $causes);
            DB::update('UPDATE pass_loads l JOIN passes p ON p.id = l.pass_id SET l.rows_total = l.rows_total * ?,
                l.rows_done = l.rows_done * ? WHERE p.round_id = ?', [$times + 1, $times + 1, $round->id]);
        });
    }

    /** Rows of the takes the round works on. */
    private static function rows(Round $round, int $times): void
    {
        $takes = $round->roundLoads()->distinct()->pluck('take_id')->implode(',');
        DB::statement('INSERT INTO staged_rows SELECT take_id, row_no + n.seq * '.self::APART.', line, hash, cells
            FROM staged_rows CROSS JOIN seq_1_to_'."$times n WHERE take_id IN ($takes)");
        DB::update(
            "UPDATE takes SET `rows` = `rows` * ?, source_rows = source_rows * ?, state = state WHERE id IN ($takes)",
            [$times + 1, $times + 1],
        );
    }

    private static function copy(string $table, string $columns, int $lane, int $times): void
    {
        DB::statement("INSERT INTO $table SELECT $columns FROM $table CROSS JOIN seq_1_to_$times n WHERE lane_id = $lane");
    }

    /** More copies of the rows that are rejected. */
    private static function rejected(Round $round, int $times, int $wanted): void
    {
        $lane = $round->laneId();
        $there = (int) DB::table('tallies')->where('lane_id', $lane)->where('outcome', 'rejected')->sum('n');
        $more = (int) ceil(max(0, $wanted - $there) / max(1, intdiv($there, $times + 1)));
        if ($more === 0) {
            return;
        }
        $from = "FROM outcomes o JOIN row_causes r ON r.lane_id = o.lane_id AND r.load_id = o.load_id AND r.item = o.item
            CROSS JOIN seq_1_to_$more n WHERE o.lane_id = $lane AND o.outcome = 'rejected' AND o.item < ".self::APART;
        $at = "o.item + ($times + n.seq) * ".self::APART;
        DB::statement("INSERT INTO row_causes SELECT r.lane_id, r.load_id, $at, r.cause_id, r.root_cause_id $from");
        DB::statement("INSERT INTO outcomes SELECT o.lane_id, o.load_id, $at, o.space_id,
            CONCAT(LEFT(o.legacy_key, 170), '~', $times + n.seq),
            o.stands, o.outcome, NULL, NULL, o.pass_id, NULL $from");
        $each = [$times + 1, $more];
        DB::update("UPDATE round_loads l JOIN tallies t ON t.load_id = l.load_id AND t.lane_id = $lane AND t.outcome = 'rejected'
            SET l.feed_rows = l.feed_rows + (t.n DIV ?) * ?, l.source_rows = l.source_rows + (t.n DIV ?) * ?
            WHERE l.round_id = $round->id", [...$each, ...$each]);
        DB::update("UPDATE tallies SET n = n + (n DIV ?) * ? WHERE lane_id = $lane AND outcome = 'rejected'", $each);
    }

    /** Shares the rejected rows of the largest causes out among new ones. */
    private static function causes(int $lane, int $wanted): void
    {
        $there = DB::table('cause_tallies')->where('lane_id', $lane)->where('outcome', 'rejected')->where('n', '>', 0)->count();
        if ($there >= $wanted) {
            return;
        }
        $each = (int) ceil($wanted / max(1, $there));
        DB::statement("INSERT INTO causes (lane_id, load_id, stage, code, field, value, message, parent_entity, parent_space,
            parent_space_id, parent_key, hash, waive_hash, alike)
            SELECT c.lane_id, c.load_id, c.stage, c.code, c.field, CONCAT(LEFT(COALESCE(c.value, ''), 200), ' ', n.seq), c.message,
            c.parent_entity, c.parent_space, c.parent_space_id, c.parent_key, MD5(CONCAT(c.hash, n.seq)),
            MD5(CONCAT(c.waive_hash, n.seq)), c.alike
            FROM causes c JOIN cause_tallies t ON t.cause_id = c.id AND t.lane_id = c.lane_id AND t.outcome = 'rejected' AND t.n > 0
            CROSS JOIN seq_1_to_$each n WHERE c.lane_id = $lane");
        DB::statement("UPDATE row_causes r JOIN causes c ON c.id = r.cause_id
            JOIN outcomes o ON o.lane_id = r.lane_id AND o.load_id = r.load_id AND o.item = r.item AND o.outcome = 'rejected'
            JOIN causes d ON d.lane_id = c.lane_id AND d.load_id = c.load_id
            AND d.hash = MD5(CONCAT(c.hash, 1 + (r.item DIV ".self::APART.") % $each))
            SET r.cause_id = d.id WHERE r.lane_id = $lane AND r.item > ".self::APART);
        DB::statement("DELETE FROM cause_tallies WHERE lane_id = $lane AND outcome = 'rejected'");
        DB::statement("INSERT INTO cause_tallies SELECT r.lane_id, r.cause_id, 'rejected', COUNT(*), c.alike FROM row_causes r
            JOIN causes c ON c.id = r.cause_id
            JOIN outcomes o ON o.lane_id = r.lane_id AND o.load_id = r.load_id AND o.item = r.item AND o.outcome = 'rejected'
            WHERE r.lane_id = $lane GROUP BY r.lane_id, r.cause_id, c.alike");
    }
}
