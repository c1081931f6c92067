<?php

namespace App\Loading;

use App\Catalogue\Definitions;
use App\Deltas\DeltaStart;
use App\Ledger\Contest;
use App\Ledger\LedgerReader;
use App\Ledger\MatchEntries;
use App\Ledger\Stretches;
use App\Models\LoadState;
use App\Models\LoadWay;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassLoad;
use App\Support\NamedLock;
use App\Targets\Ports;
use Baggage\Core\Loading\Claims;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Loading\SideBySide;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\LoadDefinition;

/**
 * The loads of a pass as one worker sees them: which of them it may do something for now, and what.
 *
 * A load waits for its parents. Loads that fill one entity go side by side: rows that share no claim with an earlier one go in any order,
 * and the others one after another, load by load in row order.
 */
final class PassLoads
{
    /** @var array<int, LoadRunner> by number of the load's line in the pass */
    private array $runners = [];

    /** @var array<int, Contest> of loads that go beside each other, by the first of them */
    private array $contests = [];

    private readonly SideBySide $order;

    public function __construct(
        private readonly Pass $pass,
        private readonly PlanVersion $plan,
        private readonly Definitions $catalogue,
        private readonly Ports $ports,
        private readonly Patience $patience,
    ) {
        $this->order = new SideBySide($plan);
    }

    /** Keys of loads that are referred to before they are loaded, so that orphans are told from late parents. */
    public function announce(): void
    {
        $late = $this->pass->passLoads()->where(fn ($q) => $q->whereNotNull('key_cursor')->orWhereNotNull('late_row'));
        foreach ($late->whereIn('state', [LoadState::Waiting, LoadState::LeftOut])->where('way', LoadWay::Unknown)->get() as $progress) {
            try {
                $this->newRunner($progress, [$progress])->announceKeys();
            } catch (DefinitionError) {
                // The load itself reports it when its turn comes.
            }
        }
    }

    /**
     * Leaves out what is not done yet: stretches that were begun are settled, rows that were not come to wait without being asked for.
     *
     * @throws TargetUnavailable
     */
    public function leaveRest(): void
    {
        $all = $this->pass->passLoads()->orderBy('id')->get()->all();
        foreach ($all as $progress) {
            if ($progress->state->isOver()) {
                continue;
            }
            try {
                $runner = $this->newRunner($progress, $all);
                foreach ([false, true] as $inTurn) {
                    while ($progress->way !== LoadWay::Unknown && $runner->settleBegun($inTurn)) {
                        $runner->knows($progress->refresh());
                    }
                }
                if ($this->pass->kind === PassKind::First) {
                    $progress->update(['key_cursor' => $progress->key_cursor ?? 0]);
                    $runner->knows($progress);
                    $runner->announceRest();
                }
            } catch (DefinitionError) {
                // Its rows have no keys that could be told; they stay without a line.
            }
            $progress->refresh()->update(['state' => LoadState::LeftOut]);
        }
    }

    /**
     * Does the next thing there is to do.
     *
     * @return bool|null null when nothing is left; false while others must finish first
     *
     * @throws TargetUnavailable
     */
    public function step(): ?bool
    {
        $all = $this->pass->passLoads()->orderBy('wave')->orderBy('id')->get()->all();
        usort($all, fn (PassLoad $a, PassLoad $b) => [$a->wave, $this->place($a)] <=> [$b->wave, $this->place($b)]);
        $open = array_filter($all, fn (PassLoad $p) => in_array($p->state, [LoadState::Waiting, LoadState::Running], true));
        foreach ($open as $progress) {
            $blocker = $this->blocker($progress, $all);
            if ($blocker?->state === LoadState::Failed || $blocker?->state === LoadState::Blocked) {
                $why = "Waits for load \"{$this->load($blocker)->name}\", which failed.";
                $progress->update(['state' => LoadState::Blocked, 'error' => $why]);

                return true;
            }
            if ($blocker === null && $this->work($progress, $all)) {
                return true;
            }
        }

        return $open === [] ? null : false;
    }

    /**
     * @param  list<PassLoad>  $all
     * @return bool whether anything was done
     *
     * @throws TargetUnavailable
     */
    private function work(PassLoad $progress, array $all): bool
    {
        try {
            if ($progress->way === LoadWay::Unknown) {
                return $this->choose($progress, $all);
            }
            if ($progress->state === LoadState::Waiting) {
                $progress->update(['state' => LoadState::Running]);
            }
            $runner = $this->runners[$progress->id] ??= $this->newRunner($progress, $all);
            $runner->knows($progress);
            $did = ($this->mayBeFree($progress, $all) && $runner->step(false))
                || ($this->isItsTurn($progress, $all) && $runner->step(true));

            return $did || $this->end($progress, $all);
        } catch (DefinitionError $e) {
            $progress->update(['state' => LoadState::Failed, 'error' => $e->getMessage()]);

            return true;
        }
    }

    /**
     * The load this one has to wait for; one that failed before others.
     *
     * @param  list<PassLoad>  $all
     */
    private function blocker(PassLoad $progress, array $all): ?PassLoad
    {
        $load = $this->load($progress);
        $before = $this->order->before($load);
        $found = null;
        foreach ($all as $other) {
            if ($other->id === $progress->id || $other->state->isOver()) {
                continue;
            }
            $hasFailed = $other->state === LoadState::Failed || $other->state === LoadState::Blocked;
            $isBeside = $hasFailed && $this->place($other) < $this->place($progress)
                && in_array($this->load($other), $this->order->beside($load), true);
            if ($isBeside || in_array($this->load($other), $before, true)) {
                $found = $hasFailed ? $other : $found ?? $other;
            }
        }

        return $found;
    }

    /**
     * Loads that go beside one, those that are in the pass.
     *
     * @param  list<PassLoad>  $all
     * @return list<PassLoad> with itself, in their order
     */
    private function beside(PassLoad $progress, array $all): array
    {
        $beside = $this->order->beside($this->load($progress));

        return array_values(array_filter(
            $all,
            fn (PassLoad $o) => $o->state !== LoadState::LeftOut && in_array($this->load($o), $beside, true),
        ));
    }

    /**
     * How the rows of loads that go beside each other are worked on.
     *
     * @param  list<PassLoad>  $all
     * @return bool whether it is known now
     *
     * @throws TargetUnavailable
     */
    private function choose(PassLoad $progress, array $all): bool
    {
        $beside = $this->beside($progress, $all);
        $entity = $this->load($progress)->entity;
        $lock = NamedLock::of("way:{$this->pass->id}:".($beside[0]->id ?? $progress->id));

        return (bool) $lock->during(function () use ($beside, $entity, $progress) {
            if ($progress->refresh()->way !== LoadWay::Unknown) {
                return true;
            }
            $matches = new MatchEntries($this->pass->lane_id, $this->catalogue->entityIds());
            $isDelta = $this->pass->kind === PassKind::Delta;
            foreach ($beside as $one) {
                $isDelta ? $this->followParents($one) : null;
                foreach ($this->load($one)->matches as $rule) {
                    $this->patience->during(fn () => $matches->readTarget(
                        $this->ports->records, $entity, $rule, $this->pass->id, $isDelta,
                    ));
                }
            }
            $way = $beside !== [] && $this->inTurn($beside, $matches->hasOthers($entity->name)) ? LoadWay::Turn : LoadWay::Free;
            $ids = array_map(fn (PassLoad $p) => $p->id, $beside);
            $this->pass->passLoads()->whereKey($ids)->whereIn('state', [LoadState::Waiting, LoadState::Running])->update([
                'state' => LoadState::Running, 'error' => null, 'way' => $way,
            ]);

            return true;
        });
    }

    /** @param  non-empty-list<PassLoad>  $beside */
    private function inTurn(array $beside, bool $meets): bool
    {
        $loads = array_keys($this->plan->names($this->load($beside[0])->entity->name));
        $others = array_values(array_diff($loads, array_map(fn (PassLoad $p) => $p->load_id, $beside)));

        return $this->order->inTurn(
            array_map($this->load(...), $beside),
            $this->pass->kind === PassKind::First,
            (new LedgerReader($this->pass->round))->hasWorked($others),
            $meets,
        );
    }

    /**
     * Whether rows in nobody's way may go: it is known then what the rows of loads before it claim.
     *
     * @param  list<PassLoad>  $all
     */
    private function mayBeFree(PassLoad $progress, array $all): bool
    {
        $untold = fn (PassLoad $p) => $p->id !== $progress->id && $p->told_row < $p->last_row;

        return $progress->way === LoadWay::Free && array_filter($this->upto($progress, $all), $untold) === [];
    }

    /**
     * Whether rows that go one after another may: load by load, and when all that are in nobody's way are through.
     *
     * @param  list<PassLoad>  $all
     */
    private function isItsTurn(PassLoad $progress, array $all): bool
    {
        $before = fn (PassLoad $p) => $p->id !== $progress->id && ! $p->is_turn_over;

        return ! $progress->is_turn_over
            && array_filter($this->upto($progress, $all), $before) === []
            && $this->isFreeOver($progress);
    }

    private function isFreeOver(PassLoad $progress): bool
    {
        return $progress->way === LoadWay::Turn
            || ($progress->cursor_row >= $progress->last_row && ! (new Stretches($progress->id))->isAnyOpen(Stretches::FREE));
    }

    /**
     * Loads that go beside one, up to itself.
     *
     * @param  list<PassLoad>  $all
     * @return list<PassLoad>
     */
    private function upto(PassLoad $progress, array $all): array
    {
        return array_values(array_filter(
            $this->beside($progress, $all),
            fn (PassLoad $o) => $this->place($o) <= $this->place($progress) && $o->state !== LoadState::Failed,
        ));
    }

    /**
     * @param  list<PassLoad>  $all
     * @return bool whether anything is over now that was not
     */
    private function end(PassLoad $progress, array $all): bool
    {
        $isNew = ! $progress->is_turn_over && $progress->refresh()->is_turn_over;
        if (! $progress->is_turn_over || ! $this->isFreeOver($progress)) {
            return $isNew;
        }
        // What the next load may need it reads again.
        unset($this->runners[$progress->id], $this->contests[$this->beside($progress, $all)[0]->id ?? 0]);

        return $this->pass->passLoads()->whereKey($progress->id)->where('state', LoadState::Running)
            ->update(['state' => LoadState::Done]) === 1 || $isNew;
    }

    /**
     * @param  list<PassLoad>  $all
     *
     * @throws DefinitionError
     */
    private function newRunner(PassLoad $progress, array $all): LoadRunner
    {
        $beside = $this->beside($progress, $all);
        $most = 0;
        foreach ($beside as $one) {
            $most += $one->last_row * Claims::most($this->load($one));
        }
        $contest = $this->contests[$beside[0]->id ?? $progress->id] ??= new Contest(array_map(fn (PassLoad $p) => $p->id, $beside), $most);

        return LoadRunner::of($this->pass, $progress, $this->plan, $this->catalogue, $this->ports, $contest, $this->patience);
    }

    /** @throws DefinitionError */
    private function load(PassLoad $progress): LoadDefinition
    {
        return $this->plan->load($progress->load_id);
    }

    /** Where a load stands in the order they run. */
    private function place(PassLoad $progress): int
    {
        return (int) array_search($this->load($progress), $this->plan->loads, true);
    }

    private function followParents(PassLoad $progress): void
    {
        $start = DeltaStart::of($this->pass, $this->plan, $this->catalogue);
        $this->patience->during(fn () => $start->followParents($progress, $this->ports->records));
    }
}
