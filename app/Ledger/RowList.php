<?php

namespace App\Ledger;

use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Facades\DB;
use PDO;

/** Reads the rows behind a number: one load after another, each in row order, a page at a time by one index. */
final readonly class RowList
{
    private const LINE = 'o.load_id, o.item AS row_no, o.legacy_key, o.outcome, o.target_key, r.cause_id, o.pass_id';

    private const CAUSE = 'LEFT JOIN row_causes r ON r.lane_id = o.lane_id AND r.load_id = o.load_id AND r.item = o.item';

    private const HAS_CAUSE = 'STRAIGHT_JOIN row_causes r FORCE INDEX (PRIMARY)
        ON r.lane_id = o.lane_id AND r.load_id = o.load_id AND r.item = o.item';

    private const OF_CAUSE = 'STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY)
        ON o.lane_id = r.lane_id AND o.load_id = r.load_id AND o.item = r.item';

    /** Rows of a stretch for each that is meant, up to which the stretch is read whole. */
    private const DENSE = 4;

    public function __construct(private int $lane)
    {
    }

    /**
     * @param  list<int>  $loads  in the order they are listed
     * @param  array{int, int}|null  $after  load and row of the last line before
     * @return list<\stdClass> load_id, row_no, legacy_key, outcome, target_key, cause_id
     */
    public function page(array $loads, RowFilter $filter, ?array $after, int $most): array
    {
        $at = $after === null ? 0 : array_search($after[0], $loads, true);
        $parts = $with = [];
        foreach (array_slice($loads, $at === false ? 0 : $at) as $n => $load) {
            [$from, $where, $values] = $this->query($filter, $load, $n === 0 && $after !== null ? $after[1] : 0);
            $parts[] = '(SELECT '.self::LINE.", $n AS place FROM $from WHERE $where ORDER BY o.item LIMIT $most)";
            array_push($with, ...$values);
        }

        if (count($parts) === 1) {
            return DB::select($parts[0], $with);
        }

        return $parts === []
            ? []
            : DB::select('SELECT * FROM ('.implode(' UNION ALL ', $parts).") l ORDER BY place, row_no LIMIT $most", $with);
    }

    /** @return array<int, int|null> row of a load → the cause it has, for those of them who want nothing else */
    public function causes(int $load, RowFilter $filter, int $after, int $most): array
    {
        [$from, $where, $values] = $this->query($filter, $load, $after);
        $asked = function (string $sql, array $values, int $how = PDO::FETCH_KEY_PAIR): array {
            $found = DB::connection()->getPdo()->prepare($sql);
            $found->execute($values);

            return $found->fetchAll($how);
        };
        if ($filter != new RowFilter($filter->outcome)) {
            return $asked("SELECT o.item, r.cause_id FROM $from WHERE $where ORDER BY o.item LIMIT $most", $values);
        }
        // Where nearly all rows of a stretch are meant, their causes are read as they lie: half as long as looking up each.
        $index = str_replace(self::CAUSE, '', $from);
        $items = $asked("SELECT o.item FROM $index WHERE $where ORDER BY o.item LIMIT $most", $values, PDO::FETCH_COLUMN);
        $stretch = [$this->lane, $load, (int) reset($items), (int) end($items)];
        $isDense = self::DENSE * count($items) > $stretch[3] - $stretch[2];
        $of = 'SELECT item, cause_id FROM row_causes FORCE INDEX (PRIMARY) WHERE lane_id = ? AND load_id = ? AND ';
        $causes = $items === [] ? [] : ($isDense
            ? $asked($of.'item BETWEEN ? AND ?', $stretch)
            : $asked($of.'item IN ('.implode(',', $items).')', array_slice($stretch, 0, 2)));
        $all = array_fill_keys($items, null);

        return array_replace($all, array_intersect_key($causes, $all));
    }

    /** @return array{string, string, list<int|string|null>} what it reads from, where, and the values of it */
    private function query(RowFilter $filter, int $load, int $after): array
    {
        $link = $filter->waits ?? $filter->open ?? $filter->made;

        return match (true) {
            $link !== null => $this->linked($load, $after, $link, match ($link) {
                $filter->waits => LinkState::Waiting,
                $filter->open => LinkState::Waived,
                default => LinkState::Made,
            }),
            $filter->cause !== null => [
                'row_causes r FORCE INDEX (by_cause) '.self::OF_CAUSE,
                'r.cause_id = ? AND r.lane_id = ? AND r.load_id = ? AND r.item > ?'.self::is($filter->outcome),
                [$filter->cause, $this->lane, $load, $after, ...self::value($filter->outcome)],
            ],
            $filter->root !== null => [
                'row_causes r FORCE INDEX (by_root) '.self::OF_CAUSE,
                'r.root_cause_id = ? AND r.lane_id = ? AND r.load_id = ? AND r.item > ? AND o.outcome = ?',
                [$filter->root, $this->lane, $load, $after, Outcome::Held->value],
            ],
            $filter->alike !== null => $this->alike($filter->alike, $filter->which, $load, $after),
            $filter->isStanding => [
                'outcomes o FORCE INDEX (PRIMARY) '.self::CAUSE,
                "o.lane_id = ? AND o.load_id = ? AND o.outcome IN ('loaded', 'updated', 'unchanged') AND o.item > ?",
                [$this->lane, $load, $after],
            ],
            $filter->isOlder => [
                'outcomes o FORCE INDEX (by_outcome) '.self::CAUSE,
                'o.lane_id = ? AND o.load_id = ? AND o.outcome IN (?, ?, ?, ?) AND o.stands = 1 AND o.item > ?',
                [$this->lane, $load, ...LedgerReader::OLDER, $after],
            ],
            $filter->outcome !== null => [
                'outcomes o FORCE INDEX (by_outcome) '.self::CAUSE,
                'o.lane_id = ? AND o.load_id = ? AND o.outcome = ? AND o.item > ?',
                [$this->lane, $load, $filter->outcome->value, $after],
            ],
            default => [
                'outcomes o FORCE INDEX (PRIMARY) '.self::CAUSE,
                'o.lane_id = ? AND o.load_id = ? AND o.item > ?',
                [$this->lane, $load, $after],
            ],
        };
    }

    private static function is(?Outcome $outcome): string
    {
        return $outcome === null ? '' : ' AND o.outcome = ?';
    }

    /** @return list<string> */
    private static function value(?Outcome $outcome): array
    {
        return $outcome === null ? [] : [$outcome->value];
    }

    /** @return array{string, string, list<int|string|null>} */
    private function linked(int $load, int $after, string $field, LinkState $state): array
    {
        return [
            'links k FORCE INDEX (waiting) STRAIGHT_JOIN outcomes o FORCE INDEX (PRIMARY)
            ON o.lane_id = k.lane_id AND o.load_id = k.load_id AND o.item = k.item '
                .self::CAUSE,
            'k.lane_id = ? AND k.state = ? AND k.load_id = ? AND k.field = ? AND k.item > ?',
            [$this->lane, $state->value, $load, $field, $after],
        ];
    }

    /**
     * @param  array{int, string, string, string|null}  $alike
     * @return array{string, string, list<int|string|null>}
     */
    private function alike(array $alike, string $which, int $load, int $after): array
    {
        [$of, $stage, $code, $field] = $alike;
        $fails = 'c.stage = ? AND c.code = ? AND c.field <=> ?';
        $due = 'EXISTS (SELECT 1 FROM due_causes d WHERE d.lane_id = o.lane_id AND d.load_id = o.load_id AND d.cause_id = r.cause_id '
            ."AND d.pass_id = o.pass_id AND o.outcome <> 'waived') OR EXISTS "
            .'(SELECT 1 FROM due_rows d WHERE d.lane_id = o.lane_id AND d.load_id = o.load_id AND d.item = o.item)';

        return match ($which) {
            RowFilter::BELOW => [
                'causes c FORCE INDEX (one) STRAIGHT_JOIN row_causes r FORCE INDEX (by_root) ON r.root_cause_id = c.id '.self::OF_CAUSE,
                "c.lane_id = ? AND c.load_id = ? AND $fails AND r.lane_id = ? AND r.load_id = ? AND r.item > ? AND o.outcome = ?",
                [$this->lane, $of, $stage, $code, $field, $this->lane, $load, $after, Outcome::Held->value],
            ],
            RowFilter::DUE => [
                'causes c FORCE INDEX (one) STRAIGHT_JOIN row_causes r FORCE INDEX (by_cause) ON r.cause_id = c.id '.self::OF_CAUSE,
                "c.lane_id = ? AND c.load_id = ? AND $fails AND r.load_id = ? AND r.item > ? AND ($due)",
                [$this->lane, $of, $stage, $code, $field, $load, $after],
            ],
            default => [
                'outcomes o FORCE INDEX (by_outcome) '.self::HAS_CAUSE.' STRAIGHT_JOIN causes c FORCE INDEX (PRIMARY) ON c.id = r.cause_id',
                "o.lane_id = ? AND o.load_id = ? AND o.outcome = ? AND o.item > ? AND $fails",
                [$this->lane, $of === $load ? $load : 0, Outcome::Rejected->value, $after, $stage, $code, $field],
            ],
        };
    }
}
