<?php

namespace App\Overview;

use App\Models\Migration;
use Illuminate\Support\Facades\DB;

/** Keeps each migration's overview, and makes it anew when something of it was written since. */
final class OverviewBook
{
    public static function of(Migration $migration): Overview
    {
        $kept = $migration->overview();

        return ($kept === null ? null : Overview::fromJson($kept)) ?? self::renew($migration);
    }

    /** As of now; kept unless somebody kept a newer one meanwhile. What is committed while it is made leaves its mark. */
    public static function renew(Migration $migration): Overview
    {
        if (DB::transactionLevel() > 0) {
            // What is not committed is nobody else's, and the mark of all that is still to come is in it.
            return OverviewMaker::of($migration);
        }
        $version = DB::table('overviews')->where('migration_id', $migration->id)->value('version');
        $seen = DB::table('overview_marks')->where('migration_id', $migration->id)->orderBy('id')->limit(10_000)->pluck('id');
        $made = OverviewMaker::of($migration);
        $isKept = $version === null
            ? DB::table('overviews')->insertOrIgnore(['migration_id' => $migration->id, 'version' => 1, 'value' => $made->toJson()])
            : DB::table('overviews')
                ->where('migration_id', $migration->id)
                ->where('version', $version)
                ->update(['version' => $version + 1, 'value' => $made->toJson()]);
        if ($isKept > 0 && $seen->isNotEmpty()) {
            DB::table('overview_marks')->whereIntegerInRaw('id', $seen->all())->delete();
        }

        return $made;
    }

    /** Of a migration that is gone. */
    public static function forget(int $migration): void
    {
        DB::table('overview_marks')->where('migration_id', $migration)->delete();
    }

    /** Those of which something was written. */
    public static function renewOld(): void
    {
        $old = DB::transactionLevel() > 0 ? [] : DB::table('overview_marks')->distinct()->pluck('migration_id')->all();
        foreach ($old === [] ? [] : Migration::query()->whereIn('id', $old)->get() as $migration) {
            self::renew($migration);
        }
    }
}
