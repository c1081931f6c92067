<?php

namespace App\Freezing;

use App\Models\Take;
use App\Models\TakeState;
use App\Profiling\StudyMigration;
use App\Queueing\Job;
use App\Queueing\Kind;
use App\Support\Attempts;
use App\Support\WorkerPresence;

/** Reads an uploaded file into staged rows. */
final class FreezeTake extends Job
{
    public int $tries = self::AGAIN;

    public function __construct(public readonly int $take)
    {
    }

    public function kind(): Kind
    {
        return Kind::Takes;
    }

    public function migration(): ?int
    {
        return Take::query()->find($this->take)?->extract?->source?->migration_id;
    }

    public function handle(Freezer $freezer): void
    {
        $take = Take::query()->find($this->take);
        if ($take === null || $take->state === TakeState::Frozen) {
            return;
        }
        $presence = WorkerPresence::of("take:$take->id");
        $presence->enter();
        if ($presence->isAnybodyElseThere()) {
            $presence->leave();

            return;
        }
        try {
            if (! Attempts::begin($take)) {
                $freezer->giveUp($take);

                return;
            }
            FreezeApart::freeze($take, $freezer);
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
