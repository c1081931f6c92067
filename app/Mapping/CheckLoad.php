<?php

namespace App\Mapping;

use App\Models\CheckState;
use App\Models\LoadCheck;
use App\Support\Attempts;
use App\Support\Unforeseen;
use App\Support\WorkerPresence;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Checks a load on all its rows without a target. */
final class CheckLoad implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(public readonly int $check)
    {
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
