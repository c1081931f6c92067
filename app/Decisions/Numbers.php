<?php

namespace App\Decisions;

use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/** Numbers of what people decide about rows, and about what makes records of them: a pass keeps the last one it saw. */
final class Numbers
{
    public static function next(int $migration, string $kind): int
    {
        return DB::table('decisions')->insertGetId(['migration_id' => $migration, 'user_id' => Auth::id(), 'kind' => $kind]);
    }

    public static function last(int $migration): int
    {
        return (int) DB::table('decisions')->where('migration_id', $migration)->max('id');
    }
}
