<?php

namespace App\Mapping;

use App\Models\CheckState;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Queueing\Job;
use App\Queueing\Kind;
use App\Support\Attempts;
use App\Support\Unforeseen;
use App\Support\WorkerPresence;

/** Checks a load on all its rows without a target. */
final class CheckLoad extends Job
{
    public int $tries = self::AGAIN;

    public function __construct(public readonly int $check)
    {
    }

    public function kind(): Kind
    {
        return Kind::Rows;
    }

    public function migration(): ?int
    {
        return Load::query()->find(LoadCheck::query()->find($this->check)?->load_id)?->migration_id;
    }

    public function handle(LoadChecker $checker): void
    {
        $check = LoadCheck::query()->find($this->check);
        if ($check === null || ! $check->isGoing()) {
            return;
        }
        $presence = WorkerPresence::of("check:$check->id");
        $presence->enter();
        try {
            if (! Attempts::begin($check)) {
                $checker->giveUp($check);

                return;
            }
            $checker->run($check);
        } catch (\Throwable $e) {
            $check->update(['state' => CheckState::Failed, 'error' => Unforeseen::said('The check broke off', $e)]);
        } finally {
            $presence->leave();
        }
    }
}
