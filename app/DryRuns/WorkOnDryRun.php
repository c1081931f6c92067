<?php

namespace App\DryRuns;

use App\Models\DryRun;
use App\Models\WorkState;
use App\Queueing\Job;
use App\Queueing\Kind;
use App\Support\Attempts;
use App\Support\Unforeseen;
use App\Support\WorkerPresence;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Ordering\OrderError;

/** Tries rows without writing; one whose worker was killed begins anew. */
final class WorkOnDryRun extends Job
{
    public int $tries = self::AGAIN;

    public function __construct(public readonly int $run)
    {
    }

    public function kind(): Kind
    {
        return Kind::Rows;
    }

    public function migration(): ?int
    {
        return DryRun::query()->find($this->run)?->migration_id;
    }

    public function handle(): void
    {
        $run = DryRun::query()->find($this->run);
        if ($run === null || ! $run->isGoing()) {
            return;
        }
        $presence = WorkerPresence::of("dry:$run->id");
        $presence->enter();
        try {
            if (! Attempts::begin($run)) {
                throw new \DomainException(Attempts::exhausted('The dry run', "within row $run->done of those it tries"));
            }
            $run->refresh()->update(['state' => WorkState::Running, 'began_at' => now(), 'done' => 0]);
            DryRunner::of($run)->work();
        } catch (\DomainException|DefinitionError|OrderError|TargetUnavailable $e) {
            $run->refresh()->update(['state' => WorkState::Refused, 'error' => mb_substr($e->getMessage(), 0, 2000), 'ended_at' => now()]);
        } catch (\Throwable $e) {
            $said = Unforeseen::said('The dry run broke off', $e);
            $run->refresh()->update(['state' => WorkState::Refused, 'error' => $said, 'ended_at' => now()]);
        } finally {
            $presence->leave();
        }
    }
}
