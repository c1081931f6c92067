<?php

namespace App\Profiling;

use App\Models\Finding;
use App\Models\Migration;
use App\Models\Take;
use App\Models\TakeState;
use App\Support\Attempts;
use App\Support\NamedLock;
use Illuminate\Database\Eloquent\Collection;

/** After freezing: keys of takes that have none yet, how they differ from the take before, and what hangs on what. */
final readonly class Study
{
    public function __construct(
        private KeyFinder $keys,
        private TakeComparison $comparison,
        private ReferenceFinder $references,
    ) {
    }

    public static function lock(int $migration): NamedLock
    {
        return NamedLock::of("study:$migration");
    }

    /** One at a time: who comes later waits, and finds less to do. */
    public function of(Migration $migration): void
    {
        self::lock($migration->id)->during(fn () => $this->study($migration), 600);
    }

    private function study(Migration $migration): void
    {
        $takes = $this->takes($migration);
        $known = [];
        foreach ($takes as $take) {
            if ($take->studied_at === null) {
                $this->step([$take], 'Looking for keys', function () use ($take, &$known) {
                    $known[$take->id] = $this->keys->find($take, new FindingWalk($take));
                });
            }
            if ($take->compared === null && $take->number > 1) {
                $this->step([$take], 'Comparing it with the take before', fn () => $this->comparison->compare($take));
            }
        }
        $new = $takes->whereNull('studied_at')->all();
        $this->step(
            array_values($new) ?: $takes->all(),
            'Looking for what hangs on what',
            fn () => $this->references->find($migration, $known),
        );
        array_map(fn (KeyHashes $of) => $of->hashes->clear(), $known);
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

        return Take::query()->where('state', TakeState::Frozen)->whereHas('extract', $ofMigration)->get();
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
