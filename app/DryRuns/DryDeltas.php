<?php

namespace App\DryRuns;

use App\Deltas\Children;
use App\Deltas\Delta;
use App\Deltas\DeltaForeseen;
use App\Deltas\DeltaLoads;
use App\Deltas\NewKeys;
use App\Ledger\DryDelta;
use App\Ledger\DryLedger;
use App\Models\Round;
use App\Models\RoundLoad;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Mapping\GonePolicy;
use Baggage\Core\Mapping\LoadDefinition;

/** The part of a dry run that is about a delta: which rows it looks at, and what it would send of each load. */
final class DryDeltas
{
    /** @var array<int, array<string, mixed>> load → what a delta would find, counted */
    private array $foreseen = [];

    /** @var array<int, array{created: int, changed: int, fields: array<string, int>}> load → records and fields */
    private array $sent = [];

    /** @param  array<int, int>  $from  load → the take the round works on */
    private function __construct(
        private readonly DryDelta $book,
        private readonly DeltaForeseen $counts,
        private readonly PlanVersion $plan,
        private readonly array $from,
        public readonly Delta $delta,
    ) {
    }

    /** @throws \DomainException where a delta would be refused */
    public static function of(int $run, Round $round, PlanVersion $plan, Delta $delta): self
    {
        $loads = $round->roundLoads()->with(['take', 'ofLoad.extract.take'])->get();
        $stated = NewKeys::stated($round, $plan);
        if ($stated !== []) {
            throw new \DomainException("The legacy key of \"{$stated[0]->name}\" is stated another way than when its rows were loaded. "
                .'A delta gives them their new keys first; a dry run does not, and cannot say what would come of it.');
        }
        foreach ($loads as $of) {
            $delta->keepsTakes || DeltaLoads::follow($of->take, $of->ofLoad->extract->take ?? $of->take);
        }

        return new self(
            new DryDelta($run, $round->laneId()),
            DeltaForeseen::by($round, $plan, $delta),
            $plan,
            $loads->pluck('take_id', 'load_id')->map(fn ($id) => (int) $id)->all(),
            $delta,
        );
    }

    /** Whether a load comes anew: all its rows are tried. */
    public function isNew(int $load): bool
    {
        return ! isset($this->from[$load]);
    }

    /**
     * What of a load a delta would look at, and leave: before any row is tried, as a delta finds it.
     *
     * @param  RoundLoad  $of  with the take that counts now
     */
    public function start(LoadDefinition $load, RoundLoad $of): void
    {
        if ($this->isNew($load->id)) {
            return;
        }
        $from = $this->from[$load->id];
        $stale = $this->counts->stale($of);
        $this->foreseen[$load->id] = $this->counts->of($of, $from, $stale) + ['would_remove' => $this->counts->removes($load, $of)];
        $isNewTake = $from !== $of->take_id;
        $isAll = $this->delta->isFull || ($isNewTake && $this->counts->areOtherColumns($from, $of));
        $this->book->gather($load->id, $from, $of->take_id, $of->take->lastRow(), $stale, $isAll);
        $policy = $load->reads() ? GonePolicy::Keep : $load->gone;
        $this->book->leave($load->id, $of->take_id, $policy);
        $this->book->members($load->id);
    }

    /**
     * What is looked at besides, now that its parents are through: where their keys lead elsewhere, and what others changed again.
     *
     * @param  array<string, int>  $entities  name → id
     */
    public function follow(LoadDefinition $load, Children $children, array $entities): void
    {
        $moved = fn (string $entity, string $after) => $this->book->moved($entities[$entity] ?? 0, $after, Children::KEYS);
        foreach ($children->ofMoved($moved) as $keys) {
            $this->book->onRecords($load->id, $keys);
        }
        $load->reads() ? $this->book->again($load->id, $entities[$load->entity->name]) : null;
    }

    /**
     * @return \Generator<int, list<int>> rows that would be new to the lane, some thousand at a time
     */
    public function added(int $load): \Generator
    {
        for ($after = 0; ($rows = $this->book->added($load, $after, 5_000)) !== []; $after = (int) end($rows)) {
            yield $rows;
        }
    }

    /** What became of a load's rows. */
    public function tried(LoadDefinition $load, DryLedger $book): void
    {
        $this->sent[$load->id] = ['created' => $book->created, 'changed' => $book->changed, 'fields' => $book->fields];
    }

    /** @return list<array<string, mixed>> by load: what would be found, and what sent */
    public function found(): array
    {
        $found = [];
        foreach ($this->plan->loads as $load) {
            $sent = $this->sent[$load->id] ?? ['created' => 0, 'changed' => 0, 'fields' => []];
            arsort($sent['fields']);
            if (isset($this->foreseen[$load->id]) || isset($this->sent[$load->id])) {
                $found[] = ['load' => $load->name, 'id' => $load->id] + ($this->foreseen[$load->id] ?? ['added' => $sent['created']]) + [
                    'records_made' => $sent['created'], 'records_changed' => $sent['changed'], 'fields' => $sent['fields'],
                ];
            }
        }

        return $found;
    }
}
