<?php

namespace App\Support;

use Illuminate\Support\Facades\DB;

/** Whether work of another kind waits for a worker. */
final class OtherWork
{
    /** @param  class-string  $than  the kind that does not count */
    public static function waits(string $than): bool
    {
        return DB::table('jobs')
            ->whereNull('reserved_at')
            ->where('payload', 'not like', '%'.class_basename($than).'%')
            ->exists();
    }
}
