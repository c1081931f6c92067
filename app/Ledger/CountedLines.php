<?php

namespace App\Ledger;

use Illuminate\Support\Facades\DB;
use PDO;

/** Lines of a lane's ledger as they are counted and compared: many at a time, in row order. */
final readonly class CountedLines
{
    public function __construct(private int $lane)
    {
    }

    /**
     * Of rows above $after up to $to.
     *
     * @return array<int, array{outcome: string, target: string|null, pass: int, key: string}> row → its line
     */
    public function between(int $load, int $after, int $to): array
    {
        return $this->read("load_id = $load AND item > $after AND item <= $to");
    }

    /**
     * @param  non-empty-list<int>  $rows
     * @return array<int, array{outcome: string, target: string|null, pass: int, key: string}>
     */
    public function of(int $load, array $rows): array
    {
        return $this->read("load_id = $load AND item IN (".implode(',', $rows).')');
    }

    /**
     * Rows delivered no more whose record is kept.
     *
     * @return array<int, array{outcome: string, target: string|null, pass: int, key: string}> in row order
     */
    public function kept(int $load, int $after, int $most): array
    {
        return $this->read("load_id = $load AND item > $after AND outcome IN ('gone', 'review') AND target_key IS NOT NULL", $most);
    }

    /** How many there are. */
    public function keptRows(int $load): int
    {
        return (int) DB::table('outcomes')->where('lane_id', $this->lane)->where('load_id', $load)
            ->whereIn('outcome', ['gone', 'review'])->whereNotNull('target_key')->count();
    }

    /**
     * Rows that can be compared with their record: those that made or changed one, whatever became of them since.
     *
     * @param  bool  $unchanged  also those that would have changed one, had it said something else
     * @return list<int> in row order
     */
    public function comparable(int $load, int $after, int $most, bool $unchanged): array
    {
        $not = implode(', ', array_map(fn (string $o) => "'$o'", self::notComparable($unchanged)));
        $found = DB::connection()->getPdo()->query(
            "SELECT item FROM outcomes FORCE INDEX (PRIMARY) WHERE lane_id = $this->lane AND load_id = $load AND item > $after
            AND target_key IS NOT NULL AND outcome NOT IN ($not) ORDER BY item LIMIT $most",
        );

        return $found === false ? [] : array_map(intval(...), $found->fetchAll(PDO::FETCH_COLUMN));
    }

    /** How many there are. */
    public function comparableRows(int $load, bool $unchanged): int
    {
        return (int) DB::table('outcomes')->where('lane_id', $this->lane)->where('load_id', $load)->whereNotNull('target_key')
            ->whereNotIn('outcome', self::notComparable($unchanged))->count();
    }

    /** @return list<string> outcomes */
    private static function notComparable(bool $unchanged): array
    {
        return $unchanged ? ['merged', 'removed'] : ['unchanged', 'merged', 'removed'];
    }

    /**
     * What rows that fail now, or are delivered no more, stand on from before.
     *
     * @param  non-empty-list<int>  $rows
     * @return array<int, array{outcome: string, pass: int}> by row
     */
    public function stood(int $load, array $rows): array
    {
        $last = DB::table('outcome_log')->forceIndex('by_row')->where('lane_id', $this->lane)->where('load_id', $load)
            ->whereIntegerInRaw('item', $rows)->whereIn('outcome', LedgerReader::STANDS)->groupBy('item')->selectRaw('MAX(id) AS id');
        $stood = [];
        foreach (DB::query()->fromSub($last, 'm')->join('outcome_log as l', 'l.id', '=', 'm.id')
            ->get(['l.item', 'l.outcome', 'l.pass_id']) as $line) {
            $stood[(int) $line->item] = ['outcome' => (string) $line->outcome, 'pass' => (int) $line->pass_id];
        }

        return $stood;
    }

    /**
     * Rows that may have made or changed records of an entity, those too that stand on nothing any more.
     *
     * @param  non-empty-list<string>  $keys  target keys
     * @return array<array-key, list<array{load: int, row: int, pass: int}>> by target key
     */
    public function writers(int $entity, array $keys): array
    {
        $pdo = DB::connection()->getPdo();
        $in = implode(',', array_map($pdo->quote(...), $keys));
        $found = $pdo->query(
            "SELECT o.target_key, o.load_id, o.item, o.pass_id FROM outcomes o FORCE INDEX (target)
            JOIN loads l ON l.id = o.load_id AND l.entity_id = $entity
            WHERE o.lane_id = $this->lane AND o.target_key IN ($in) AND o.outcome <> 'merged'
            UNION ALL
            SELECT v.target_key, v.load_id, v.item, v.pass_id FROM values_before v FORCE INDEX (of_record)
            JOIN passes p ON p.id = v.pass_id AND p.lane_id = $this->lane WHERE v.entity_id = $entity AND v.target_key IN ($in)",
        );
        $writers = [];
        foreach ($found === false ? [] : $found->fetchAll(PDO::FETCH_NUM) as [$key, $load, $row, $pass]) {
            $writers[$key][] = ['load' => (int) $load, 'row' => (int) $row, 'pass' => (int) $pass];
        }

        return $writers;
    }

    /**
     * What the target wrote otherwise than it was given.
     *
     * @param  non-empty-array<int, int>  $passes  row → the pass that sent it
     * @return array<int, array<string, string|null>> row → field → what it wrote
     */
    public function holds(int $load, array $passes): array
    {
        $found = DB::connection()->getPdo()->query(
            "SELECT item, pass_id, holds FROM written_otherwise FORCE INDEX (by_row) WHERE lane_id = $this->lane AND load_id = $load
            AND item IN (".implode(',', array_keys($passes)).') ORDER BY id',
        );
        $holds = [];
        foreach ($found === false ? [] : $found->fetchAll(PDO::FETCH_NUM) as [$row, $pass, $json]) {
            if ($passes[(int) $row] === (int) $pass) {
                $holds[(int) $row] = json_decode($json, true, 8, JSON_THROW_ON_ERROR);
            }
        }

        return $holds;
    }

    /** @return array<int, array{outcome: string, target: string|null, pass: int, key: string}> */
    private function read(string $where, ?int $most = null): array
    {
        $found = DB::connection()->getPdo()->query(
            "SELECT item, outcome, target_key, pass_id, legacy_key FROM outcomes FORCE INDEX (PRIMARY)
            WHERE lane_id = $this->lane AND $where ORDER BY item".($most === null ? '' : " LIMIT $most"),
        );
        $lines = [];
        while ($found !== false && ($line = $found->fetch(PDO::FETCH_NUM)) !== false) {
            $lines[(int) $line[0]] = ['outcome' => $line[1], 'target' => $line[2], 'pass' => (int) $line[3], 'key' => $line[4]];
        }

        return $lines;
    }
}
