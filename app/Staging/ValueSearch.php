<?php

namespace App\Staging;

use Baggage\Core\Reading\RawRow;
use Illuminate\Support\Facades\DB;

/** Rows with a certain value in a column: a bounded stretch of the take is looked through at a time. */
final class ValueSearch
{
    private const STRETCH = 200_000;

    private const PAGE = 60;

    /** @return array{rows: list<array{int, RawRow}>, reached: int} rows, and the last row number looked at */
    public static function find(int $take, int $position, string $value, int $after): array
    {
        $until = $after + self::STRETCH;
        $rows = DB::select(
            'SELECT row_no, line, cells FROM staged_rows WHERE take_id = ? AND row_no > ? AND row_no <= ? '
                ."AND JSON_VALUE(cells, '$[$position]') = ? ORDER BY row_no LIMIT ".self::PAGE,
            [$take, $after, $until, $value],
        );
        $found = array_map(
            fn ($r) => [(int) $r->row_no, new RawRow((int) $r->line, json_decode($r->cells, true))],
            $rows,
        );

        return ['rows' => $found, 'reached' => count($found) === self::PAGE ? $found[self::PAGE - 1][0] : $until];
    }
}
