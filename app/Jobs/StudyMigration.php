<?php

namespace App\Jobs;

use App\Models\Migration;
use App\Models\Take;
use App\Profiling\KeyFinder;
use App\Profiling\ReferenceFinder;
use App\Staging\FindingRows;
use App\Staging\TakeComparison;
use Illuminate\Contracts\Queue\ShouldBeUniqueUntilProcessing;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Illuminate\Support\Facades\DB;

/** After freezing: keys of takes that have none yet, how they differ from the take before, and what hangs on what. */
final class StudyMigration implements ShouldBeUniqueUntilProcessing, ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $uniqueFor = 600;

    public function __construct(public readonly int $migration)
    {
    }

    public static function lock(int $migration): string
    {
        return DB::connection()->getDatabaseName().":study:$migration";
    }

    public function uniqueId(): string
    {
        return (string) $this->migration;
    }

    public function handle(KeyFinder $keys, TakeComparison $comparison, ReferenceFinder $references): void
    {
        $migration = Migration::query()->find($this->migration);
        if ($migration === null) {
            return;
        }
        // One at a time; a lock of the database ends with its connection, however the worker ends.
        $lock = self::lock($migration->id);
        if ((int) DB::scalar('SELECT GET_LOCK(?, 600)', [$lock]) !== 1) {
            return;
        }
        try {
            $this->study($migration, $keys, $comparison, $references);
        } finally {
            DB::scalar('SELECT RELEASE_LOCK(?)', [$lock]);
        }
    }

    private function study(Migration $migration, KeyFinder $keys, TakeComparison $comparison, ReferenceFinder $references): void
    {
        $takes = Take::query()->where('state', 'frozen')->whereHas('extract', fn ($q) => $q->whereColumn('extracts.take_id', 'takes.id')->whereHas('source', fn ($s) => $s->where('migration_id', $migration->id)))->get();
        foreach ($takes as $take) {
            if ($take->studied_at === null) {
                $keys->find($take);
                (new FindingRows($take))->rest();
            }
            if ($take->compared === null && $take->number > 1) {
                $comparison->compare($take);
            }
        }
        $references->find($migration);
        Take::query()->whereKey($takes->modelKeys())->whereNull('studied_at')->update(['studied_at' => now()]);
    }
}
