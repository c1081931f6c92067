<?php

namespace App\Reconciling;

use App\Models\Round;
use App\Models\RoundEnd;
use App\Models\Work;
use App\Models\WorkState;
use App\Queueing\Job;
use App\Queueing\Kind;
use App\Support\Unforeseen;
use App\Support\WorkerPresence;
use Illuminate\Support\Facades\Auth;

/** Counts a round for the last time and ends it, in the name of whoever asked. */
final class EndRound extends Job
{
    public int $tries = self::AGAIN;

    public function __construct(public readonly int $work)
    {
    }

    public function kind(): Kind
    {
        return Kind::Passes;
    }

    public function migration(): ?int
    {
        return Work::query()->find($this->work)?->migration_id;
    }

    public function handle(): void
    {
        $work = Work::query()->find($this->work);
        if ($work === null || ! $work->isGoing()) {
            return;
        }
        $presence = WorkerPresence::of("work:$work->id");
        $presence->enter();
        $work->update(['state' => WorkState::Running]);
        $work->user_id === null ?: Auth::onceUsingId($work->user_id);
        try {
            $round = Round::query()->where('migration_id', $work->migration_id)->findOrFail($work->given['round']);
            $as = RoundEnd::from($work->given['as']);
            RoundEnding::end($round, $as, $work->given['reason']);
            $work->update([
                'state' => WorkState::Done,
                'told' => "$round->name is $as->value. Its figures stay as they are.",
            ]);
        } catch (\DomainException $e) {
            $work->refresh()->update(['state' => WorkState::Refused, 'told' => $e->getMessage()]);
        } catch (\Throwable $e) {
            $work->refresh()->update(['state' => WorkState::Refused, 'told' => Unforeseen::said('The round was not ended', $e)]);
        } finally {
            $presence->leave();
        }
    }
}
