<?php

namespace App\Loading;

use App\Catalogue\Definitions;
use App\Ledger\Counters;
use App\Ledger\LedgerReader;
use App\Ledger\LedgerWriter;
use App\Ledger\Links;
use App\Ledger\MatchEntries;
use App\Models\Lane;
use App\Models\LoadState;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassLoad;
use App\Models\PassState;
use App\Models\SetBack;
use App\Support\Attempts;
use App\Support\Unforeseen;
use App\Support\WorkerPresence;
use App\Targets\Ports;
use Baggage\Core\Loading\LinkWork;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Facades\DB;

/**
 * Works on a pass until nothing is left. Any number of workers may call work() for one pass: each takes the next load whose
 * parents are done and holds a named lock of the database while it runs, so the lock of a killed worker frees itself.
 */
final class PassRunner
{
    private function __construct(
        private readonly Pass $pass,
        private readonly PlanVersion $plan,
        private readonly Definitions $catalogue,
        private readonly Ports $ports,
        private readonly int $wait,
    ) {
    }

    /** @param  int  $wait multiplies the waits for a target that does not answer; 0 in tests */
    public static function of(Pass $pass, int $wait = 1): self
    {
        $round = $pass
            ->round()
            ->with(['migration', 'target'])
            ->firstOrFail();

        return new self(
            $pass,
            $pass->plan()->firstOrFail()->version(),
            new Definitions($round->migration),
            Ports::of($round->target),
            $wait,
        );
    }

    public function work(): void
    {
        $this->pass->refresh();
        if (! $this->pass->isGoing()) {
            return;
        }
        $presence = WorkerPresence::of("pass:{$this->pass->id}");
        if (! $this->mayWork($presence)) {
            return;
        }
        $presence->enter();
        // Looking for circles among millions of short-lived rows costs more than it frees; once a batch is often enough.
        gc_disable();
        try {
            if ($this->isSetBack()) {
                return;
            }
            Counters::begin($this->pass->id, $this->countTarget());
            $this->pass->round->lane()->update(['due_upto' => 0]);
            if ($this->pass->kind === PassKind::Retry) {
                WorkOutDue::inRound($this->pass->round, $this->plan, 0);
            }
            $this->runLoads();
            if (! $this->stopRequested()) {
                $this->finish();
            }
            $this->close();
        } catch (TargetUnavailable $e) {
            $this->stopWith($e->getMessage().' The pass stopped and can be resumed.');
        } catch (\Throwable $e) {
            $this->stopWith(Unforeseen::said('The pass broke off and can be resumed', $e));
        } finally {
            gc_enable();
            $presence->leave();
        }
        if (! $this->pass->refresh()->isGoing()) {
            DueSoon::of($this->pass->round->migration_id);
        }
    }

    /** Not where it ended one process after another. */
    private function mayWork(WorkerPresence $presence): bool
    {
        if ($this->pass->state === PassState::Queued) {
            $this->pass->update([
                'state' => PassState::Running,
                'started_at' => $this->pass->started_at ?? now(),
                'attempts' => 1,
            ]);
        } elseif (! $presence->isAnybodyThere() && ! Attempts::begin($this->pass)) {
            $this->giveUp();

            return false;
        }
        // With the attempts as they are counted now, or the first stretch would not begin to count anew.
        $this->pass->refresh();

        return true;
    }

    /** A target that does not know the lane any more was set back: what the ledger says of it is not so. */
    private function isSetBack(): bool
    {
        $lane = $this->pass->lane()->firstOrFail();
        if ($this->isMarked($lane)) {
            $lane->update(['is_set_back' => SetBack::No]);
        } elseif ($lane->is_set_back !== SetBack::ButThere && (new LedgerReader($this->pass->round))->hasWritten()) {
            $lane->update(['is_set_back' => SetBack::Yes]);
            $this->stopWith(Rounds::SET_BACK);

            return true;
        }

        return false;
    }

    private function isMarked(Lane $lane): bool
    {
        return Rounds::isMarked($lane, $this->catalogue->migration->installation, $this->ports->target);
    }

    private function runLoads(): void
    {
        $this->scanKeys();
        while (($next = $this->next()) !== null) {
            if ($next === false) {
                usleep(100_000);

                continue;
            }
            $this->runLoad($next);
            if ($this->stopRequested()) {
                return;
            }
        }
    }

    /** What needs all loads of the pass: references left open, and which cause holds what. */
    private function finish(): void
    {
        $lane = $this->pass->lane_id;
        $links = new Links($lane);
        (new LinkWork($links, $this->plan, $this->ports->target))->run();
        $links->leaveOpen();
        $this->rememberRecords();
        foreach ($this->plan->loads as $load) {
            (new LedgerWriter)->pointAtRoots($lane, $load->id);
        }
    }

    /** What the target holds of entities that are matched, so that the next pass reads it again only where others wrote. */
    private function rememberRecords(): void
    {
        $entities = $made = [];
        foreach ($this->pass->passLoads()->get() as $progress) {
            $load = $this->load($progress);
            $name = $load->entity->name;
            $made[$name] = ($made[$name] ?? 0) + ($progress->counts[Outcome::Loaded->value] ?? 0);
            if ($load->matches !== []) {
                $entities[$name] = $load->entity;
            }
        }
        (new MatchEntries($this->pass->lane_id, $this->catalogue->entityIds()))->remember($this->ports->records, $entities, $made);
    }

    /** Ends a pass whose processes ended again and again without getting further. */
    private function giveUp(): void
    {
        $at = $this->pass->passLoads()->where('state', LoadState::Running)->orderBy('wave')->orderBy('id')->first();
        $where = $at === null
            ? 'while references that were left open were set'
            : "in load \"{$this->load($at)->name}\" "
                .Attempts::within((int) $at->cursor_row, LoadRunner::size($at));
        $at?->update(['state' => LoadState::Failed, 'error' => Attempts::exhausted('This load', $where)]);
        $this->pass->update([
            'state' => PassState::Failed,
            'finished_at' => now(),
            'error' => Attempts::exhausted('The pass', $where).' What it loaded stands; the pass can be resumed.',
        ]);
    }

    /** Keys of loads that are referred to before they are loaded, so that orphans are told from late parents. */
    private function scanKeys(): void
    {
        foreach ($this->pass
            ->passLoads()
            ->whereNotNull('key_cursor')
            ->whereIn('state', [LoadState::Waiting, LoadState::LeftOut])
            ->get() as $progress) {
            $lock = $this->lock($progress);
            if ($lock && $progress->refresh()->cursor_row === 0) {
                try {
                    LoadRunner::of(
                        $this->pass,
                        $progress,
                        $this->plan,
                        $this->catalogue,
                        $this->ports,
                    )->announceKeys();
                } catch (DefinitionError) {
                    // The load itself reports it when its turn comes.
                }
            }
            if ($lock) {
                $this->unlock($progress);
            }
        }
    }

    /** @return PassLoad|false|null the next load, false while others must finish first, null when there is none */
    private function next(): PassLoad|false|null
    {
        $all = $this->pass->passLoads()->orderBy('wave')->orderBy('id')->get();
        $open = $all->whereIn('state', [LoadState::Waiting, LoadState::Running]);
        if ($open->isEmpty()) {
            return null;
        }
        foreach ($open as $progress) {
            $blocker = $this->blocker($progress, $all->all());
            if ($blocker?->state === LoadState::Failed || $blocker?->state === LoadState::Blocked) {
                $progress->update([
                    'state' => LoadState::Blocked,
                    'error' => "Waits for load \"{$this->load($blocker)->name}\", which failed.",
                ]);

                return $this->next();
            }
            if ($blocker === null && $this->lock($progress)) {
                // Another worker may have finished it between the look and the lock.
                if (in_array($progress->refresh()->state, [LoadState::Waiting, LoadState::Running], true)) {
                    return $progress;
                }
                $this->unlock($progress);

                return $this->next();
            }
        }

        return false;
    }

    /**
     * The load this one has to wait for: of a parent entity, or an earlier one of its own entity.
     *
     * @param  array<int, PassLoad>  $all
     */
    private function blocker(PassLoad $progress, array $all): ?PassLoad
    {
        $load = $this->load($progress);
        $parents = $this->plan->order()->parentsOf($load->entity->name);
        $found = null;
        foreach ($all as $other) {
            if ($other->id === $progress->id || $other->state->isOver()) {
                continue;
            }
            $before = $this->load($other);
            if (
                in_array($before->entity->name, $parents, true)
                || ($before->entity->name === $load->entity->name && $this->place($before) < $this->place($load))
            ) {
                $found = $other->state === LoadState::Failed || $other->state === LoadState::Blocked ? $other : $found ?? $other;
            }
        }

        return $found;
    }

    private function runLoad(PassLoad $progress): void
    {
        try {
            $progress->update(['state' => LoadState::Running, 'error' => null]);
            $runner = LoadRunner::of(
                $this->pass,
                $progress,
                $this->plan,
                $this->catalogue,
                $this->ports,
                $this->wait,
            );
            if ($runner->run(fn () => $this->stopRequested())) {
                $progress->update(['state' => LoadState::Done]);
            }
        } catch (DefinitionError $e) {
            $progress->update(['state' => LoadState::Failed, 'error' => $e->getMessage()]);
        } finally {
            $this->unlock($progress);
        }
    }

    /**
     * @return array<int, int> entity → its records in the target now
     *
     * @throws TargetUnavailable
     */
    private function countTarget(): array
    {
        $counts = [];
        foreach ($this->catalogue->entityIds() as $name => $id) {
            $n = $this->ports->records->count($name);
            if ($n !== null) {
                $counts[$id] = $n;
            }
        }

        return $counts;
    }

    private function close(): void
    {
        $this->pass->refresh();
        $lane = $this->pass->lane()->firstOrFail();
        if ($lane->is_set_back === SetBack::ButThere && $this->isMarked($lane)) {
            // It left its mark anew, so that the next time is noticed.
            $lane->update(['is_set_back' => SetBack::No]);
        }
        $states = $this->pass->passLoads()->pluck('state');
        $isOpen = $states->contains(LoadState::Waiting) || $states->contains(LoadState::Running);
        if ($this->pass->stop_requested && $isOpen) {
            Counters::end($this->pass->id, $this->countTarget());
            $this->pass->update(['state' => PassState::Stopped, 'finished_at' => now(), 'error' => null]);

            return;
        }
        if ($isOpen || $this->pass->state !== PassState::Running) {
            return;
        }
        Counters::end($this->pass->id, $this->countTarget());
        $failed = $states->filter(fn ($s) => $s === LoadState::Failed || $s === LoadState::Blocked)->count();
        $this->pass->update([
            'state' => $failed > 0 ? PassState::Failed : PassState::Finished,
            'finished_at' => now(),
            'error' => $failed > 0 ? "$failed loads did not run; mend their rules and resume." : null,
        ]);
        $this->ports->target->forget($this->catalogue->migration->installation, $this->pass->id);
    }

    private function stopWith(string $message): void
    {
        $this->pass->update(['state' => PassState::Stopped, 'finished_at' => now(), 'error' => mb_substr($message, 0, 2000)]);
    }

    private function stopRequested(): bool
    {
        $now = Pass::query()->whereKey($this->pass->id)->first(['stop_requested', 'state']);

        return $now === null || $now->stop_requested || $now->state === PassState::Stopped;
    }

    /** @throws DefinitionError */
    private function load(PassLoad $progress): LoadDefinition
    {
        return $this->plan->load($progress->load_id);
    }

    /** Where a load stands in the order they run. */
    private function place(LoadDefinition $load): int
    {
        return (int) array_search($load, $this->plan->loads, true);
    }

    private function lock(PassLoad $progress): bool
    {
        return (int) DB::scalar('SELECT GET_LOCK(?, 0)', [$this->lockName($progress)]) === 1;
    }

    private function unlock(PassLoad $progress): void
    {
        DB::scalar('SELECT RELEASE_LOCK(?)', [$this->lockName($progress)]);
    }

    private function lockName(PassLoad $progress): string
    {
        return DB::connection()->getDatabaseName().":pass-load:$progress->id";
    }
}
