<?php

namespace App\Profiling;

use App\Models\Finding;
use App\Models\Migration;
use App\Models\Take;
use App\Support\Attempts;
use Illuminate\Contracts\Queue\ShouldBeUniqueUntilProcessing;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Database\Eloquent\Collection;
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

    private function study(
        Migration $migration,
        KeyFinder $keys,
        TakeComparison $comparison,
        ReferenceFinder $references,
    ): void {
        $takes = $this->takes($migration);
        foreach ($takes as $take) {
            if ($take->studied_at === null) {
                $this->step([$take], 'Looking for keys', function () use ($keys, $take) {
                    $keys->find($take);
                    (new FindingRows($take))->rest();
                });
            }
            if ($take->compared === null && $take->number > 1) {
                $this->step([$take], 'Comparing it with the take before', fn () => $comparison->compare($take));
            }
        }
        $new = $takes->whereNull('studied_at')->all();
        $this->step(
            array_values($new) ?: $takes->all(),
            'Looking for what hangs on what',
            fn () => $references->find($migration),
        );
        Take::query()
            ->whereKey($takes->modelKeys())
            ->whereNull('studied_at')
            ->update(['studied_at' => now()]);
    }

    /** @return Collection<int, Take> those the loads of the migration read */
    private function takes(Migration $migration): Collection
    {
        $ofMigration = fn ($e) => $e
            ->whereColumn('extracts.take_id', 'takes.id')
            ->whereHas('source', fn ($s) => $s->where('migration_id', $migration->id));

        return Take::query()->where('state', 'frozen')->whereHas('extract', $ofMigration)->get();
    }

    /**
     * One step, unless it ended its process too often: that is a finding then.
     *
     * @param  array<int, Take>  $takes  of which it is a step
     * @param  \Closure(): mixed  $do
     */
    private function step(array $takes, string $step, \Closure $do): void
    {
        foreach ($takes as $take) {
            $attempts = $take->refresh()->study_attempts ?? [];
            if (($attempts[$step] ?? 0) >= Attempts::MOST) {
                $this->giveUp($take, $step);

                return;
            }
            $take->update(['study_attempts' => [$step => ($attempts[$step] ?? 0) + 1] + $attempts]);
        }
        $do();
        foreach ($takes as $take) {
            $take->update([
                'study_attempts' => array_diff_key($take->refresh()->study_attempts ?? [], [$step => 0]) ?: null,
            ]);
        }
    }

    private function giveUp(Take $take, string $step): void
    {
        Finding::query()->firstOrCreate(
            ['extract_id' => $take->extract_id, 'take_id' => $take->id, 'code' => 'study'],
            [
                'n' => (int) $take->rows,
                'rows' => [],
                'message' => Attempts::exhausted($step, Attempts::within(0, (int) $take->rows)),
            ],
        );
    }
}
