<?php

namespace App\Loading;

use App\Decisions\Numbers;
use App\Mapping\Waiting;
use App\Models\Extract;
use App\Models\Migration;

/** Has what is due worked out on the worker whenever something it hangs on changed. */
final class DueSoon implements Waiting
{
    public function changed(Migration $migration): void
    {
        Numbers::next($migration->id, 'definition');
        WorkOutDue::dispatch($migration->id);
    }

    /** Rows of the extract were corrected or left behind. */
    public static function rows(Extract $extract): void
    {
        self::of((int) $extract->source?->migration_id);
    }

    public static function of(int $migration): void
    {
        WorkOutDue::dispatch($migration);
    }
}
