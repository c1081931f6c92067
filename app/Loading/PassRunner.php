<?php

namespace App\Loading;

use App\Catalogue\Definitions;
use App\Deltas\DeltaRemovals;
use App\Deltas\DeltaStart;
use App\Deltas\KeysRefused;
use App\Deltas\NewKeys;
use App\DryRuns\Compared;
use App\Ledger\BackOutBook;
use App\Ledger\Contest;
use App\Ledger\Counters;
use App\Ledger\DeltaBook;
use App\Ledger\LateKeys;
use App\Ledger\LedgerReader;
use App\Ledger\LedgerWriter;
use App\Ledger\Links;
use App\Ledger\MatchEntries;
use App\Ledger\RepairBook;
use App\Ledger\Stretches;
use App\Models\Lane;
use App\Models\LoadState;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassLoad;
use App\Models\PassState;
use App\Models\SetBack;
use App\Support\Attempts;
use App\Support\NamedLock;
use App\Support\Unforeseen;
use App\Support\WorkerPresence;
use App\Targets\Ports;
use Baggage\Core\Loading\LinkWork;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Facades\DB;

/**
 * Works on a pass until nothing is left. Any number of workers may call work() for one pass: each takes the next rows there are, and
 * holds named locks of the database meanwhile, so those of a killed worker free themselves.
 */
final class PassRunner
{
    /** Seconds a worker waits for the one that prepares the pass. */
    private const WAIT = 3600;

    /** Steps between two looks for circles. */
    private const COLLECTED_EVERY = 16;

    /** Microseconds until a worker looks again whether others have finished what it waits for. */
    private const LOOK_AGAIN = 50_000;

    private function __construct(
        private readonly Pass $pass,
        private readonly PlanVersion $plan,
        private readonly Definitions $catalogue,
        private readonly Ports $ports,
        private readonly Patience $patience,
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
            new Patience($pass, $wait),
        );
    }

    /**
     * @param  (\Closure(): bool)|null  $leaves  asked after every stretch: whether this worker is needed elsewhere
     * @return bool whether it left, and there is more to do
     */
    public function work(?\Closure $leaves = null): bool
    {
        $this->pass->refresh();
        if (! $this->pass->isGoing()) {
            return false;
        }
        $presence = WorkerPresence::of("pass:{$this->pass->id}");
        if ($this->inTurn(fn () => $this->enter($presence)) !== true) {
            return false;
        }
        $left = false;
        // Looking for circles among millions of short-lived rows costs more than it frees; now and then is often enough.
        gc_disable();
        // Workers beside each other lock what they write, not the gaps between.
        DB::statement('SET SESSION TRANSACTION ISOLATION LEVEL READ COMMITTED');
        $leaves ??= fn () => false;
        $this->patience->leavesWhere($leaves);
        try {
            $left = $this->workOn($leaves);
        } catch (MakesRoom) {
            $left = true;
        } catch (TargetUnavailable $e) {
            $this->stopWith($e->getMessage().' The pass stopped and can be resumed.');
        } catch (\Throwable $e) {
            $this->stopWith(Unforeseen::said('The pass broke off and can be resumed', $e));
        } finally {
            gc_enable();
            DB::statement('SET SESSION TRANSACTION ISOLATION LEVEL REPEATABLE READ');
            $presence->leave();
            NamedLock::leaveAll();
        }
        $left ? $this->inTurn(fn () => $this->waitFor($presence)) : null;
        $this->leave($presence);

        return $left;
    }

    /**
     * @param  \Closure(): bool  $leaves
     * @return bool whether it leaves before the end
     */
    private function workOn(\Closure $leaves): bool
    {
        $loads = $this->loads();
        $prepare = fn () => $this->patience->during(fn () => $this->prepare($loads));
        if (! NamedLock::of("prepare:{$this->pass->id}")->during($prepare, self::WAIT)) {
            return false;
        }
        for ($steps = 1; ! $this->stopRequested() && ($did = $loads->step()) !== null; $steps++) {
            if ($steps % self::COLLECTED_EVERY === 0) {
                gc_collect_cycles();
            }
            if ($did && $this->pass->attempts > 1) {
                // It gets further, so it is no stretch that ends every process.
                $this->pass->update(['attempts' => 1]);
            }
            if (! $did) {
                usleep(self::LOOK_AGAIN);
            } elseif ($leaves()) {
                return true;
            }
        }
        NamedLock::of("finish:{$this->pass->id}")->during(function () {
            if (! $this->stopRequested() && $this->pass->refresh()->state === PassState::Running && ! $this->isOpen()) {
                $this->patience->during(function () {
                    $this->finish();
                    $this->close();
                });
            }
        });

        return false;
    }

    private function loads(): PassLoads|BackOutLoads
    {
        return $this->pass->kind === PassKind::BackOut
            ? BackOutLoads::of($this->pass, $this->plan, $this->catalogue, $this->ports, $this->patience)
            : new PassLoads($this->pass, $this->plan, $this->catalogue, $this->ports, $this->patience);
    }

    /**
     * One worker at a time comes or goes.
     *
     * @param  \Closure(): bool  $do
     */
    private function inTurn(\Closure $do): ?bool
    {
        return NamedLock::of("turn:{$this->pass->id}")->during($do, self::WAIT);
    }

    /** @return bool whether it may work */
    private function enter(WorkerPresence $presence): bool
    {
        $presence->enter();
        if (! $this->mayWork($presence)) {
            $presence->leave();

            return false;
        }

        return true;
    }

    /** Where nobody else is at it, the pass waits for its next turn as it did for its first. */
    private function waitFor(WorkerPresence $presence): bool
    {
        return ! $presence->isAnybodyThere()
            && Pass::query()
                ->whereKey($this->pass->id)
                ->where(['state' => PassState::Running, 'stop_requested' => false])
                ->update(['state' => PassState::Queued]) === 1;
    }

    /**
     * Ends a pass that is paused. What somebody died over is settled first; rows it did not come to were not asked for, and a later pass
     * may take them.
     */
    public function end(): void
    {
        if ($this->pass->kind === PassKind::BackOut) {
            // It is gone on with to its end.
            return;
        }
        $presence = WorkerPresence::of("pass:{$this->pass->id}");
        $presence->enter();
        try {
            if ($this->pass->refresh()->canResume() && ! $presence->isAnybodyElseThere()) {
                $this->pass->update(['state' => PassState::Running, 'stop_requested' => true, 'error' => null]);
                (new PassLoads($this->pass, $this->plan, $this->catalogue, $this->ports, $this->patience))->leaveRest();
                $this->finish();
                $this->close();
            }
        } catch (TargetUnavailable $e) {
            $this->stopWith($e->getMessage().' The pass is as it was, and can be resumed or ended.');
        } catch (\Throwable $e) {
            $this->stopWith(Unforeseen::said('The pass could not be ended', $e));
        } finally {
            $presence->leave();
            NamedLock::leaveAll();
        }
        DueSoon::of($this->pass->round->migration_id);
    }

    /** What comes before the first row, once in a pass. @return bool whether it may go on */
    private function prepare(PassLoads|BackOutLoads $loads): bool
    {
        if ($this->isSetBack()) {
            return false;
        }
        if (! $this->pass->refresh()->is_prepared) {
            Counters::begin($this->pass->id, $this->countTarget());
            $this->pass->round->lane()->update(['due_upto' => 0]);
            try {
                $loads instanceof PassLoads ? NewKeys::give($this->pass, $this->plan) : null;
            } catch (KeysRefused $e) {
                $this->refuse($e->getMessage());

                return false;
            }
            if ($this->pass->kind === PassKind::Retry) {
                WorkOutDue::inRound($this->pass->round, $this->plan, 0);
            }
            if ($this->pass->kind === PassKind::Delta) {
                DeltaStart::of($this->pass, $this->plan, $this->catalogue)->run();
            }
            try {
                $loads instanceof PassLoads ? $loads->announce() : $loads->prepare();
            } catch (BackOutRefused $e) {
                $this->refuse($e->getMessage());

                return false;
            }
            $this->pass->update(['is_prepared' => true, 'log_from' => RepairBook::logged()]);
        }

        return true;
    }

    /** Whoever is the last to go says how it ended. */
    private function leave(WorkerPresence $presence): void
    {
        $this->pass->refresh();
        if ($this->pass->isGoing() && $this->pass->stop_requested && ! $presence->isAnybodyThere()) {
            $this->close();
        }
        if (! $this->pass->refresh()->isGoing()) {
            DueSoon::of($this->pass->round->migration_id);
        }
    }

    private function isOpen(): bool
    {
        return $this->pass->passLoads()->whereIn('state', [LoadState::Waiting, LoadState::Running])->exists();
    }

    /** Not where it ended one process after another. */
    private function mayWork(WorkerPresence $presence): bool
    {
        if ($this->pass->state === PassState::Queued) {
            $this->pass->started_at === null ? PassLog::note($this->pass, 'It began.') : null;
            $this->pass->update([
                'state' => PassState::Running,
                'started_at' => $this->pass->started_at ?? now(),
                'attempts' => 1,
            ]);
        } elseif (! $presence->isAnybodyElseThere()) {
            $this->pass->noteInterruption() ? PassLog::note($this->pass, 'Whoever worked on it was gone; it went on where it was.') : null;
            if (! Attempts::begin($this->pass)) {
                $this->giveUp();

                return false;
            }
        }
        // With the attempts as they are counted now, or the first stretch would not begin to count anew.
        $this->pass->refresh();

        return true;
    }

    /** A target that does not know the lane any more was set back: what the ledger says of it is not so. */
    private function isSetBack(): bool
    {
        $lane = $this->pass->lane()->firstOrFail();
        // In this order: another worker may write its first records meanwhile.
        $hasWritten = (new LedgerReader($this->pass->round))->hasWritten();
        if ($this->isMarked($lane)) {
            $lane->update(['is_set_back' => SetBack::No]);
        } elseif ($lane->is_set_back !== SetBack::ButThere && $hasWritten) {
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

    /** What needs all loads of the pass: references left open, and which cause holds what. */
    private function finish(): void
    {
        $lane = $this->pass->lane_id;
        $loads = $this->loads();
        if ($loads instanceof BackOutLoads) {
            $loads->finish();

            return;
        }
        DeltaBook::followMoved($this->pass->id, $lane);
        $links = new Links($lane);
        (new LinkWork($links, $this->plan, $this->ports->target))->run();
        $links->leaveOpen();
        $isWhole = $this->pass->passLoads()->where('state', LoadState::LeftOut)->whereNotNull('compared')->doesntExist();
        // What is to go is not needed any more when all that differs was sent.
        if ($this->pass->kind === PassKind::Delta && $isWhole) {
            $this->pass->update(['left_records' => BackOutBook::countLeftBy($this->pass->id)]);
            DeltaRemovals::of($this->pass, $this->plan, $this->catalogue, $this->ports, $this->mark())->run();
        }
        LateKeys::forget($lane);
        Contest::forget($this->pass->passLoads()->pluck('id')->all());
        $this->rememberRecords();
        foreach ($this->plan->loads as $load) {
            (new LedgerWriter)->pointAtRoots($lane, $load->id);
        }
    }

    private function mark(): Mark
    {
        $round = $this->pass->round;

        return new Mark(
            $this->catalogue->migration->installation, $this->pass->lane_id, $round->name, $round->created_at->format('Y-m-d H:i:s'),
        );
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
                .((new Stretches($at->id))->left() ?? 'before its first row');
        $at?->update(['state' => LoadState::Failed, 'error' => Attempts::exhausted('This load', $where)]);
        $this->pass->update([
            'state' => PassState::Failed,
            'finished_at' => now(),
            'error' => Attempts::exhausted('The pass', $where).' What it loaded stands; the pass can be resumed.',
        ]);
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
        $isOpen = $this->isOpen();
        if ($this->pass->stop_requested && $isOpen) {
            Counters::end($this->pass->id, $this->countTarget());
            $this->pass->update(['state' => PassState::Stopped, 'finished_at' => now(), 'error' => null]);
            PassLog::note($this->pass, 'It was paused.');

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
        PassLog::note($this->pass, $failed > 0 ? "It ended; $failed loads did not run." : 'It ended.');
        if ($this->pass->kind !== PassKind::BackOut) {
            Compared::note($this->pass);
            RepairBook::freed($this->pass);
        }
        $this->ports->target->forget($this->catalogue->migration->installation, $this->pass->id);
    }

    private function stopWith(string $message): void
    {
        PassLog::note($this->pass, $message);
        $this->pass->update(['state' => PassState::Stopped, 'finished_at' => now(), 'error' => mb_substr($message, 0, 2000)]);
    }

    /** Nothing was done, and nothing is to be gone on with. */
    private function refuse(string $message): void
    {
        PassLog::note($this->pass, $message);
        Counters::end($this->pass->id, $this->countTarget());
        $this->pass->passLoads()->update(['state' => LoadState::LeftOut]);
        $this->pass->update([
            'state' => PassState::Finished, 'finished_at' => now(), 'error' => mb_substr($message, 0, 2000), 'backs_out' => null,
        ]);
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
}
