<?php

namespace App\Staging;

use App\Support\BulkRows;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;

/** The values of a take's columns, with how many rows have each. */
final class ColumnValues
{
    public static function line(int $take, int $position, string $value, int $rows): string
    {
        return BulkRows::line([$take, $position, $value, $rows]);
    }

    /** @param  string  $lines  of line(), $n of them */
    public static function write(string $lines, int $n): void
    {
        BulkRows::load(DB::connection(), 'column_values', '(take_id, position, value, n)', $lines, $n);
    }

    public static function forget(int $take): void
    {
        DB::table('column_values')->where('take_id', $take)->delete();
    }

    /** @return Collection<int, \stdClass> value and n, of those kept */
    public static function all(int $take, int $position): Collection
    {
        return DB::table('column_values')->where('take_id', $take)->where('position', $position)->get(['value', 'n']);
    }

    /** @return Collection<int, \stdClass> value and n, the most frequent first */
    public static function most(int $take, int $position, int $most): Collection
    {
        return DB::table('column_values')
            ->where('take_id', $take)
            ->where('position', $position)
            ->orderByDesc('n')
            ->orderBy('value')
            ->limit($most)
            ->get(['value', 'n']);
    }
}
