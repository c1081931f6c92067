<?php

namespace Tests\Support;

use Baggage\Core\Loading\BatchProcessor;
use Baggage\Core\Loading\Claims;
use Baggage\Core\Loading\LinkWork;
use Baggage\Core\Loading\LoadWork;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\Matcher;
use Baggage\Core\Loading\ParentResolver;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Loading\SideBySide;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Rows\Outcome;
use Random\Randomizer;

/** Some workers on one pass, in memory: any of them does the next thing it finds, and any may be killed between any two steps. */
final class Crew
{
    /** @var array<int, array<int, LoadWork>> worker → load → what it has in hand */
    private array $workers = [];

    /** @var \ArrayObject<int, true> */
    private readonly \ArrayObject $alive;

    private readonly SideBySide $order;

    private int $hired = 0;

    private bool $isAnnounced = false;

    /**
     * @param  array<string, array{headers: list<string>, rows: array<int, array<string, string>>}>  $takes  by name of the load
     * @param  list<string>  $without  loads that are left out
     * @param  int  $most  workers at a time
     */
    public function __construct(
        private readonly PlanVersion $plan,
        private readonly MemoryLane $lane,
        private readonly MemoryTarget $target,
        private readonly array $takes,
        private readonly int $pass,
        private readonly bool $isRetry,
        private readonly array $without,
        private readonly Randomizer $random,
        private readonly int $most = 3,
    ) {
        $this->alive = new \ArrayObject;
        $this->order = new SideBySide($plan);
    }

    /** @return bool whether the pass is over */
    public function go(int $stretches): bool
    {
        $this->announce();
        for ($idle = 0; $stretches > 0 && ! $this->isOver(); $stretches--) {
            while (count($this->workers) < $this->random->getInt(1, $this->most)) {
                $this->alive[++$this->hired] = true;
                $this->workers[$this->hired] = [];
            }
            $worker = array_keys($this->workers)[$this->random->getInt(0, count($this->workers) - 1)];
            try {
                $idle = $this->stepOf($worker) ? 0 : $idle + 1;
            } catch (Killed|TargetUnavailable) {
                // Nothing but the ledger and the target is left of that worker.
                unset($this->workers[$worker], $this->alive[$worker]);
            }
            if ($idle > 300) {
                throw new \LogicException('all workers wait');
            }
        }
        if (! $this->isOver()) {
            return false;
        }
        try {
            (new LinkWork($this->lane, $this->plan, $this->target))->run();
        } catch (Killed|TargetUnavailable) {
            return false;
        }
        $this->target->forget('machine', $this->pass);
        $this->lane->late = [];

        return true;
    }

    /** Keys that are known before their rows are worked on: those referred to before, and those of loads that are left out. */
    private function announce(): void
    {
        $late = array_map(fn ($r) => $r->parent, $this->plan->order()->deferred);
        foreach ($this->isAnnounced || $this->isRetry ? [] : $this->plan->loads as $load) {
            $isOut = in_array($load->name, $this->without, true);
            [$columns, $rows] = $this->cells($load);
            foreach ($isOut || in_array($load->entity->name, $late, true) ? $rows : [] as $row => $cells) {
                $key = $this->plan->mapper($load->id, $columns)->legacyKey($cells);
                if ($isOut) {
                    $this->lane->lines[$load->id][$row] = [
                        'entity' => $load->entity->name, 'space' => $load->rowSpace(), 'key' => $key, 'outcome' => Outcome::Pending,
                        'target' => null, 'cause' => null, 'pass' => $this->pass,
                    ];
                } elseif (! $load->reads()) {
                    $this->lane->late["$this->pass {$load->entity->name} $load->space"][$key] ??= [$load->id, $row];
                }
            }
        }
        $this->isAnnounced = true;
    }

    private function isOver(): bool
    {
        foreach ($this->mine($this->plan->loads) as $load) {
            if (! $this->isLoadOver($load)) {
                return false;
            }
        }

        return true;
    }

    private function isLoadOver(LoadDefinition $load): bool
    {
        return $this->book($load)->isOver($this->isRetry || isset($this->lane->allInTurn["$this->pass $load->id"]));
    }

    /** A worker does the next thing it finds. */
    private function stepOf(int $worker): bool
    {
        foreach ($this->mine($this->plan->loads) as $load) {
            $waits = array_filter($this->mine($this->order->before($load)), fn ($l) => ! $this->isLoadOver($l));
            if ($waits === [] && ! $this->isLoadOver($load) && $this->stepIn($load, $worker)) {
                return true;
            }
        }

        return false;
    }

    private function stepIn(LoadDefinition $load, int $worker): bool
    {
        $beside = $this->mine($this->order->beside($load));
        $isTurn = $this->inTurn($load, $beside);
        $work = $this->workers[$worker][$load->id] ??= $this->hands($load, $worker);
        if ($isTurn && ! $this->isRetry) {
            $this->lane->allInTurn["$this->pass $load->id"] = true;
        }
        $earlier = array_slice($beside, 0, (int) array_search($load, $beside, true));
        $isFree = ! $isTurn && array_filter($earlier, fn ($l) => ! $this->book($l)->isTold()) === [];
        if ($isFree && $work->step(false)) {
            return true;
        }
        $itsTurn = array_filter($earlier, fn ($l) => ! $this->book($l)->isTurnOver()) === [];
        $may = $itsTurn && ! $this->book($load)->isTurnOver() && ($isTurn || $this->book($load)->isFreeOver());

        return $may && $work->step(true);
    }

    /** @param  list<LoadDefinition>  $beside */
    private function inTurn(LoadDefinition $load, array $beside): bool
    {
        $worked = array_values(array_filter(Outcome::cases(), fn (Outcome $o) => $o !== Outcome::Pending));
        $others = array_diff(array_keys($this->plan->names($load->entity->name)), array_map(fn ($l) => $l->id, $beside));
        $stand = array_filter($others, fn ($l) => $this->lane->rows($l, ...$worked) !== []) !== [];

        return $this->order->inTurn($beside, ! $this->isRetry, $stand, $this->meets($load));
    }

    private function meets(LoadDefinition $load): bool
    {
        return ($this->lane->others[$load->entity->name] ?? 0) > 0;
    }

    /**
     * @param  list<LoadDefinition>  $loads
     * @return list<LoadDefinition>
     */
    private function mine(array $loads): array
    {
        return array_values(array_filter($loads, fn (LoadDefinition $l) => ! in_array($l->name, $this->without, true)));
    }

    private function book(LoadDefinition $load, int $worker = 0): MemoryBook
    {
        return $this->lane->book($this->pass, $load, $this->isRetry, count($this->takes[$load->name]['rows']), $worker, $this->alive);
    }

    /** @return array{Columns, array<int, list<string>>} */
    private function cells(LoadDefinition $load): array
    {
        $take = $this->takes[$load->name];

        return [
            Columns::fromHeaders($take['headers']),
            array_map(fn (array $r) => array_map(fn ($h) => $r[$h], $take['headers']), $take['rows']),
        ];
    }

    private function hands(LoadDefinition $load, int $worker): LoadWork
    {
        [$columns, $cells] = $this->cells($load);
        $mapper = $this->plan->mapper($load->id, $columns);
        $deferred = $this->plan->order()->deferredFields($load->entity->name);
        $parents = new ParentResolver($load->entity, $this->lane, $this->plan->normalisations(), $deferred);
        $matcher = new Matcher($load, $this->lane, $this->lane, $this->plan->names($load->entity->name), $this->meets($load));
        $claims = new Claims($load, $matcher);
        $processor = new BatchProcessor(
            $load->entity,
            $load->policy,
            $mapper,
            $parents,
            $matcher,
            $claims,
            $this->target,
            new Mark('machine', 1, 'r', '2026-01-01 00:00:00'),
            $this->lane->waivers($load->id),
        );
        [$book, $rows] = [$this->book($load, $worker), new MemoryTake($cells)];
        $size = $this->random->getInt(1, 4);

        return new LoadWork($rows, $book, $processor, $this->target, 'machine', $this->pass, $load->id, $size);
    }
}
