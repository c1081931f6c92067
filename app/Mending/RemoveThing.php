<?php

namespace App\Mending;

use App\Models\Audit;
use App\Models\Migration;
use App\Models\Work;
use App\Models\WorkState;
use App\Queueing\Job;
use App\Queueing\Kind as Queue;
use App\Support\Attempts;
use App\Support\Unforeseen;
use App\Support\WorkerPresence;
use Illuminate\Database\Eloquent\ModelNotFoundException;
use Illuminate\Support\Facades\Auth;

/** Removes something with all its rows. Taken up again after a kill, it goes on with what is left. */
final class RemoveThing extends Job
{
    public int $tries = self::AGAIN;

    public function __construct(public readonly int $work)
    {
    }

    public function kind(): Queue
    {
        return Queue::Rows;
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
        try {
            if (! Attempts::begin($work)) {
                throw new \DomainException(Attempts::exhausted($work->title, 'while it was removed'));
            }
            $work->refresh()->update(['state' => WorkState::Running]);
            $work->user_id === null ?: Auth::onceUsingId($work->user_id);
            $told = self::removed($work);
            Work::query()->whereKey($work->id)->update(['told' => $told, 'state' => WorkState::Done]);
        } catch (\DomainException $e) {
            $work->refresh()->update(['state' => WorkState::Refused, 'told' => $e->getMessage()]);
        } catch (\Throwable $e) {
            $work->refresh()->update(['state' => WorkState::Refused, 'told' => Unforeseen::said("$work->title ended", $e)]);
        } finally {
            $presence->leave();
        }
    }

    private static function removed(Work $work): string
    {
        $migration = Migration::query()->findOrFail($work->migration_id);
        try {
            $thing = Kind::from($work->given['kind'])->find($migration, (int) $work->given['id']);
        } catch (ModelNotFoundException) {
            return ucfirst($work->given['label']).' is gone.';
        }
        $holds = $thing->holds();
        if ($holds !== []) {
            throw new \DomainException(implode(' ', $holds));
        }
        $hangs = $thing->hangs();
        $thing->remove();
        if (Migration::query()->whereKey($migration->id)->exists()) {
            Audit::note($migration->id, "removed {$work->given['label']}", ['with it' => $hangs]);
        }

        return ucfirst($work->given['label']).' is gone.';
    }
}
