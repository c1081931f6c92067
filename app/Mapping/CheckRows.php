<?php

namespace App\Mapping;

use App\Models\LoadCheck;
use App\Support\BulkRows;
use App\Support\NumberPage;
use Baggage\Core\Mapping\Check;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** The rows behind the causes of a check. */
final class CheckRows
{
    public static function page(LoadCheck $check, int $cause, int $after): NumberPage
    {
        return NumberPage::of(DB::table('check_rows')->where('check_id', $check->id)->where('cause', $cause), $after);
    }

    /** @return list<int> the first row of each cause */
    public static function oneOfEachCause(LoadCheck $check): array
    {
        return DB::table('check_rows')
            ->where('check_id', $check->id)
            ->where('cause', '<>', Check::OUTSIDE)
            ->groupBy('cause')
            ->selectRaw('MIN(row_no) AS row_no')
            ->pluck('row_no')
            ->map(fn ($n) => (int) $n)
            ->unique()
            ->values()
            ->all();
    }

    /** @return list<int> the first rows of a cause */
    public static function first(LoadCheck $check, int $cause, int $most): array
    {
        return DB::table('check_rows')
            ->where('check_id', $check->id)
            ->where('cause', $cause)
            ->orderBy('row_no')
            ->limit($most)
            ->pluck('row_no')
            ->map(fn ($n) => (int) $n)
            ->all();
    }

    /** Rows that have any cause, without those outside the scope. */
    public static function count(LoadCheck $check): int
    {
        return (int) DB::scalar(
            'SELECT COUNT(DISTINCT row_no) FROM check_rows WHERE check_id = ? AND cause <> ?',
            [$check->id, Check::OUTSIDE],
        );
    }

    /** Adds the rows a query finds. */
    public static function found(LoadCheck $check, int $cause, Builder $rows): int
    {
        return DB::table('check_rows')->insertUsing(
            ['check_id', 'cause', 'row_no'],
            $rows->selectRaw('?, ?, a.row_no', [$check->id, $cause]),
        );
    }

    public static function forget(LoadCheck $check): void
    {
        DB::table('check_rows')->where('check_id', $check->id)->delete();
    }

    /** @param  string  $lines  check, cause and row number, as BulkRows::line() gives them */
    public static function add(string $lines, int $rows): void
    {
        BulkRows::load(DB::connection(), 'check_rows', '(check_id, cause, row_no)', $lines, $rows);
    }
}
