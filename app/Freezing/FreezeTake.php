<?php

namespace App\Freezing;

use App\Models\Take;
use App\Models\TakeState;
use App\Profiling\StudyMigration;
use App\Support\Attempts;
use App\Support\WorkerPresence;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Reads an uploaded file into staged rows. */
final class FreezeTake implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(public readonly int $take)
    {
    }

    public function handle(Freezer $freezer): void
    {
        $take = Take::query()->find($this->take);
        if ($take === null || $take->state === TakeState::Frozen) {
            return;
        }
        $presence = WorkerPresence::of("take:$take->id");
        $presence->enter();
        try {
            if (! Attempts::begin($take)) {
                $freezer->giveUp($take);

                return;
            }
            config('baggage.apart.on') ? FreezeApart::freeze($take, $freezer) : $freezer->freeze($take);
            $migration = $take->extract?->source?->migration_id;
            if ($take->refresh()->state === TakeState::Frozen && $migration !== null) {
                DependentFeeds::makeAgain($take->extract);
                StudyMigration::dispatch($migration);
            }
        } finally {
            $presence->leave();
        }
    }
}
