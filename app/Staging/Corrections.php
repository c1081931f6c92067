<?php

namespace App\Staging;

use Baggage\Core\Rows\CorrectionState;
use Baggage\Core\Rows\Laid;
use Illuminate\Support\Facades\DB;
use PDO;

/** Reads the corrections that lie over the rows of a take. */
final class Corrections
{
    /**
     * Cells of a column that were corrected after a decision, and count.
     *
     * @param  list<int>  $rows
     * @return array<int, string> row → its value
     */
    public static function since(int $take, array $rows, string $header, int $decision): array
    {
        return DB::table('correction_places as p')
            ->join('corrections as c', 'c.id', '=', 'p.correction_id')
            ->where('p.take_id', $take)
            ->whereIntegerInRaw('p.row_no', $rows)
            ->where('p.state', CorrectionState::Carried->value)
            ->where('c.ended', 0)
            ->where('c.header', $header)
            ->where('c.decision', '>', $decision)
            ->pluck('c.new_value', 'p.row_no')
            ->map(strval(...))
            ->all();
    }

    /**
     * @param  int|null  $decision  the number of the last decision that counts; null for those that count now
     * @return list<array{int, Laid}> row number and correction, whole rows before single cells, the newest first
     */
    public static function over(int $take, int $from, int $to, ?int $decision): array
    {
        $counts = $decision === null
            ? 'c.ended = 0'
            : "c.decision <= $decision AND (c.ended = 0 OR c.ended > $decision)";
        // Asked for every stretch of rows, so without the query builder; there are few corrections and many rows.
        $found = DB::connection()
            ->getPdo()
            ->query(
                "SELECT p.row_no, p.position, c.old_value, c.new_value FROM correction_places p FORCE INDEX (PRIMARY)
                STRAIGHT_JOIN corrections c FORCE INDEX (PRIMARY) ON c.id = p.correction_id
                WHERE p.take_id = $take AND p.row_no BETWEEN $from AND $to AND p.state = '".CorrectionState::Carried->value."'
                AND $counts ORDER BY c.whole DESC, c.decision DESC",
            );
        $laid = [];
        foreach ($found === false ? [] : $found->fetchAll(PDO::FETCH_NUM) as [$row, $position, $old, $new]) {
            $laid[] = [(int) $row, new Laid($position === null ? null : (int) $position, $old, $new)];
        }

        return $laid;
    }

    /**
     * @param  list<int>  $takes
     * @return array<int, int> row of a stretch that something was ever laid over → the last decision about that
     */
    public static function decided(array $takes, int $after, int $to): array
    {
        return DB::table('correction_places as p')
            ->join('corrections as c', 'c.id', '=', 'p.correction_id')
            ->whereIntegerInRaw('p.take_id', $takes)
            ->where('p.row_no', '>', $after)
            ->where('p.row_no', '<=', $to)
            ->groupBy('p.row_no')
            ->selectRaw('p.row_no, GREATEST(MAX(c.decision), MAX(c.ended)) AS n')
            ->pluck('n', 'row_no')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    /** Whether anything over a take was corrected, or let go, after a decision. */
    public static function hasSince(int $take, int $decision): bool
    {
        return DB::table('correction_places as p')
            ->join('corrections as c', 'c.id', '=', 'p.correction_id')
            ->where('p.take_id', $take)
            ->where(fn ($q) => $q->where('c.decision', '>', $decision)->orWhere('c.ended', '>', $decision))
            ->exists();
    }

    /**
     * Rows that were made whole, as they count now.
     *
     * @param  list<int>  $rows
     * @return array<int, \stdClass> row → old_value, new_value of the newest
     */
    public static function whole(int $take, array $rows): array
    {
        return DB::table('correction_places as p')
            ->join('corrections as c', 'c.id', '=', 'p.correction_id')
            ->where('p.take_id', $take)
            ->whereIntegerInRaw('p.row_no', $rows)
            ->where('p.state', CorrectionState::Carried->value)
            ->where('c.ended', 0)
            ->where('c.whole', 1)
            ->orderBy('c.decision')
            ->get(['p.row_no', 'c.old_value', 'c.new_value'])
            ->keyBy('row_no')
            ->all();
    }

    /**
     * @param  list<int>  $takes
     * @return list<int> those of them whose first row has a correction
     */
    public static function ofFirstRows(array $takes): array
    {
        return DB::table('correction_places')
            ->whereIntegerInRaw('take_id', $takes)
            ->where('row_no', 1)
            ->distinct()
            ->pluck('take_id')
            ->map(fn ($id) => (int) $id)
            ->all();
    }

    /**
     * @param  list<int>  $rows
     * @return array<int, list<int>> row → positions of cells that were corrected
     */
    public static function positions(int $take, array $rows): array
    {
        $found = [];
        foreach (
            DB::table('correction_places')
                ->where('take_id', $take)
                ->whereIntegerInRaw('row_no', $rows)
                ->whereNotNull('position')
                ->get(['row_no', 'position']) as $place
        ) {
            $found[(int) $place->row_no][] = (int) $place->position;
        }

        return $found;
    }

    /**
     * @param  int|null  $decision  the number of the last decision that counts; null for those that count now
     * @return list<\stdClass> id, header, whole, old_value, new_value, reason, created_at, name of who: those over a row that count
     */
    public static function ofRow(int $take, int $row, ?int $decision = null): array
    {
        return DB::table('correction_places as p')
            ->join('corrections as c', 'c.id', '=', 'p.correction_id')
            ->leftJoin('users as u', 'u.id', '=', 'c.user_id')
            ->where('p.take_id', $take)
            ->where('p.row_no', $row)
            ->where('p.state', CorrectionState::Carried->value)
            ->when($decision === null, fn ($q) => $q->where('c.ended', 0), fn ($q) => $q
                ->where('c.decision', '<=', $decision)
                ->where(fn ($w) => $w->where('c.ended', 0)->orWhere('c.ended', '>', $decision)))
            ->orderByDesc('c.whole')
            ->orderByDesc('c.decision')
            ->get(['c.id', 'c.header', 'c.whole', 'c.old_value', 'c.new_value', 'c.reason', 'c.created_at', 'u.name as who'])
            ->all();
    }
}
