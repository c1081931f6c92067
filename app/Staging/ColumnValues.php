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

    /**
     * @param  list<array{int, int}>  $columns  take and position of each
     * @return Collection<int, \stdClass> take_id, position, value and n, of those kept, column by column
     */
    public static function ofColumns(array $columns): Collection
    {
        $all = null;
        foreach ($columns as [$take, $position]) {
            $one = DB::table('column_values')
                ->where('take_id', $take)
                ->where('position', $position)
                ->select(['take_id', 'position', 'value', 'n']);
            $all = $all?->unionAll($one) ?? $one;
        }

        return $all?->get() ?? collect();
    }

    /**
     * @param  list<int>  $positions
     * @return array<int, array<array-key, int>> position → value → rows
     */
    public static function of(int $take, array $positions): array
    {
        $all = [];
        $found = DB::table('column_values')->where('take_id', $take)->whereIntegerInRaw('position', $positions);
        foreach ($positions === [] ? [] : $found->get() as $of) {
            $all[(int) $of->position][$of->value] = (int) $of->n;
        }

        return $all;
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
