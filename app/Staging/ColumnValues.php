<?php

namespace App\Staging;

use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;

/** The values of a take's columns, with how many rows have each. */
final class ColumnValues
{
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
