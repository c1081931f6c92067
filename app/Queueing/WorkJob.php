<?php

namespace App\Queueing;

use App\Models\Work;
use App\Models\WorkState;
use App\Support\Attempts;
use App\Support\EditLost;
use App\Support\Unforeseen;
use App\Support\WorkerPresence;
use Illuminate\Support\Facades\Auth;

/** Does what somebody asked for, in their name, and tells them what came of it. Taken up again after a kill. */
abstract class WorkJob extends Job
{
    public int $tries = self::AGAIN;

    // Not readonly: queues make it again from within the class that extends this one.
    public function __construct(public int $work)
    {
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
                throw new \DomainException(Attempts::exhausted($work->title, $this->where($work)));
            }
            $work->refresh()->update(['state' => WorkState::Running]);
            $work->user_id === null ?: Auth::onceUsingId($work->user_id);
            $work->update(['state' => WorkState::Done] + $this->done($work));
        } catch (EditLost $e) {
            $work->refresh()->update(['state' => WorkState::Refused, 'told' => $e->said()]);
        } catch (\DomainException $e) {
            $work->refresh()->update(['state' => WorkState::Refused, 'told' => $e->getMessage()]);
        } catch (\Throwable $e) {
            $work->refresh()->update(['state' => WorkState::Refused, 'told' => Unforeseen::said($this->brokeOff($work), $e)]);
        } finally {
            $presence->leave();
        }
    }

    /**
     * @return array<string, mixed> what is kept of it: told, and more
     *
     * @throws \DomainException|EditLost why it cannot be done
     */
    abstract protected function done(Work $work): array;

    /** Where it was when its worker was killed, as "the last time …" goes on. */
    protected function where(Work $work): string
    {
        return 'before it was done';
    }

    protected function brokeOff(Work $work): string
    {
        return "$work->title ended";
    }
}
