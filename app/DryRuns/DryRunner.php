<?php

namespace App\DryRuns;

use App\Catalogue\Definitions;
use App\Decisions\Following;
use App\Decisions\Numbers;
use App\Deltas\Children;
use App\Deltas\Delta;
use App\Ledger\CauseSet;
use App\Ledger\DryCrosswalk;
use App\Ledger\DryLedger;
use App\Ledger\DryMatches;
use App\Ledger\DryRows;
use App\Ledger\DryTries;
use App\Ledger\DueBook;
use App\Ledger\DueCauses;
use App\Ledger\EarlierPairs;
use App\Ledger\LedgerReader;
use App\Ledger\MatchEntries;
use App\Ledger\Only;
use App\Ledger\PairBook;
use App\Ledger\SentAlone;
use App\Ledger\SentRows;
use App\Ledger\Spaces;
use App\Ledger\WaiverBook;
use App\Models\DryRun;
use App\Models\DryRunKind;
use App\Models\KeySpace;
use App\Models\Lane;
use App\Models\PassLoad;
use App\Models\RoundLoad;
use App\Models\WorkState;
use App\Staging\StagedRows;
use App\Targets\DryRecords;
use App\Targets\Ports;
use App\Targets\Sql\DryTarget;
use Baggage\Core\Loading\BatchProcessor;
use Baggage\Core\Loading\Claims;
use Baggage\Core\Loading\FeedRows;
use Baggage\Core\Loading\KeyWork;
use Baggage\Core\Loading\LoadWork;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\Matcher;
use Baggage\Core\Loading\OthersGuard;
use Baggage\Core\Loading\Pairs;
use Baggage\Core\Loading\ParentResolver;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Loading\SideBySide;
use Baggage\Core\Loading\Waivers;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Mapping\Mapper;

/** Takes the rows of a dry run through the life of a row, load by load as a pass would, against a target that only answers. */
final class DryRunner
{
    private const STRETCH = 1000;

    /** Causes told of what would not go through. */
    private const CAUSES = 50;

    /** @var array<int, RoundLoad> by load: its take, rows and space */
    private array $of = [];

    /** @var array<int, string> loads that could not be tried, and why */
    private array $failed = [];

    private int $done = 0;

    private int $same = 0;

    private bool $isStopped = false;

    private function __construct(
        private readonly DryRun $run,
        private readonly ?Supposed $supposed,
        private readonly Definitions $definitions,
        private readonly PlanVersion $plan,
        private readonly ?LedgerReader $ledger,
        private readonly Ports $ports,
        private readonly DryTarget $target,
        private readonly DryRows $rows,
        private readonly DryTries $tries,
        private readonly DryMatches $matches,
        private readonly ?DryDeltas $deltas = null,
    ) {
    }

    /** @throws \DomainException|\Baggage\Core\Mapping\DefinitionError|\Baggage\Core\Ordering\OrderError */
    public static function of(DryRun $run): self
    {
        $migration = $run->migration()->firstOrFail();
        $round = $run->round()->first();
        $lane = $round?->lane?->id;
        $definitions = new Definitions($migration, $round->parameters ?? $run->given['parameters'] ?? []);
        $supposed = isset($run->given['repair']) ? Supposed::fromArray($run->given['repair']) : null;
        $plan = $definitions->version();
        $plan = $supposed?->plan($plan) ?? $plan;
        $isDelta = $run->kind === DryRunKind::Delta;
        if ($run->kind !== DryRunKind::First && ! $isDelta) {
            $plan = $plan->only($round?->roundLoads()->pluck('load_id')->all() ?? []);
        }
        $changed = [];
        foreach ($plan->loads as $load) {
            $changed[] = $isDelta || $load->policy->updates() || $load->reads() || $load->matches !== [] ? $load->entity->name : '';
        }
        $ports = Ports::of($run->target()->firstOrFail());
        $known = $run->kind === DryRunKind::First ? null : new MatchEntries((int) $lane, $definitions->entityIds());
        DryRecords::forget($run->id);
        ($rows = new DryRows($run->id))->forget();

        return new self(
            $run,
            $supposed,
            $definitions,
            $plan,
            $round === null || $run->kind === DryRunKind::First ? null : new LedgerReader($round),
            $ports,
            $ports->dry(new DryRecords($run->id, array_values(array_filter(array_unique($changed))))),
            $rows,
            new DryTries($run->id, $run->kind === DryRunKind::First ? null : $lane),
            new DryMatches($run->id, $known, $known === null ? null : $lane, $definitions->entityIds()),
            $isDelta && $round !== null ? DryDeltas::of($run->id, $round, $plan, Delta::fromArray($run->given)) : null,
        );
    }

    public function work(): void
    {
        $this->run->update(['plan' => $this->plan->hash(), 'decision' => Numbers::last($this->run->migration_id)]);
        $this->takeUp();
        foreach ($this->deltas === null ? [] : $this->plan->loads as $load) {
            $this->isLeftOut($load) ?: $this->deltas?->start($load, $this->of[$load->id]);
        }
        $this->announce();
        $this->seed();
        foreach ($this->plan->loads as $load) {
            $this->isStopped || $this->load($load);
        }
        $this->run->refresh();
        if (! $this->isStopped) {
            $this->run->update([
                'state' => WorkState::Done, 'ended_at' => now(), 'done' => $this->done, 'total' => $this->done, 'found' => $this->found(),
            ]);
        }
    }

    /** The takes of the round, or those of now where there is none. */
    private function takeUp(): void
    {
        foreach ($this->run->kind === DryRunKind::First ? [] : $this->run->round?->roundLoads()->with('take')->get() ?? [] as $of) {
            $this->of[$of->load_id] = $this->deltas === null || in_array($of->load_id, $this->run->given['without'] ?? [], true)
                ? $of
                : $this->deltas->delta->taking($of);
        }
        if ($this->run->kind !== DryRunKind::First && $this->deltas === null) {
            return;
        }
        foreach ($this->definitions->loads()->whereNotIn('id', array_keys($this->of)) as $load) {
            $take = $load->extract->take ?? throw new \DomainException(
                "Load \"$load->name\" reads the extract {$load->extract->name}, of which nothing has been frozen.",
            );
            $this->of[$load->id] = (new RoundLoad([
                'load_id' => $load->id, 'take_id' => $take->id, 'feed_rows' => $take->rows,
                'space_id' => KeySpace::of($load, $this->definitions->definition($load))->id,
            ]))->setRelation('take', $take);
        }
        $this->deltas === null
            ? $this->run->update(['total' => array_sum(array_map(fn (RoundLoad $of) => $of->feed_rows, $this->of))])
            : null;
    }

    /** Keys of records that are referred to before they are loaded. */
    private function announce(): void
    {
        $late = array_map(fn ($r) => $r->parent, $this->plan->order()->deferred);
        foreach ($this->run->kind === DryRunKind::First || $this->deltas !== null ? $this->plan->loads : [] as $load) {
            $isLate = ! $load->reads() && in_array($load->entity->name, $late, true);
            if ($this->isWhole($load) ? $isLate || $this->isLeftOut($load) : $isLate && ! $this->isLeftOut($load)) {
                try {
                    $mapper = $this->plan->mapper($load->id, $this->of[$load->id]->take->tidyColumns());
                    $this->isWhole($load)
                        ? (new KeyWork($this->staged($load), $mapper, $this->book($load)))->run()
                        : $this->announceAdded($load, $mapper);
                } catch (DefinitionError) {
                    // The load itself reports it when its turn comes.
                }
            }
        }
    }

    private function announceAdded(LoadDefinition $load, Mapper $mapper): void
    {
        foreach ($this->deltas?->added($load->id) ?? [] as $rows) {
            $keys = array_map($mapper->legacyKey(...), $this->staged($load)->numbered($rows));
            $this->rows->announce($load->id, $this->of[$load->id]->space_id, $keys);
        }
    }

    /** Whether all rows of a load are tried. */
    private function isWhole(LoadDefinition $load): bool
    {
        return $this->ledger === null || ($this->deltas !== null && $this->deltas->isNew($load->id));
    }

    /** The rows a repair is about; one of what loads are made by concerns rows of other causes too. */
    private function seed(): void
    {
        $supposed = $this->supposed;
        if ($supposed === null || $this->run->round === null) {
            return;
        }
        $this->tries->rows($supposed->load, $supposed->rows);
        $supposed->causes === null ?: $this->tries->causes($supposed->load, $supposed->causes);
        foreach ($supposed->answered()?->rows() ?? [] as $rows) {
            $this->tries->rows($supposed->load, $rows);
        }
        if ($supposed->changesPlan()) {
            $book = new DueBook($this->run->round->laneId());
            $spaces = Spaces::of($this->definitions->migration);
            $now = new DueCauses($this->run->round, $book, $spaces, $this->definitions->version());
            $then = new DueCauses($this->run->round, $book, $spaces, $this->plan);
            foreach ($this->of as $load => $of) {
                $this->tries->causes($load, CauseSet::some($then->newBeside($now, $of)));
            }
        }
    }

    /** Its rows are not asked for, and hold those that need them. */
    private function isLeftOut(LoadDefinition $load): bool
    {
        return in_array($load->id, $this->run->given['without'] ?? [], true);
    }

    private function load(LoadDefinition $load): void
    {
        if ($this->isLeftOut($load)) {
            return;
        }
        $before = array_map(fn (LoadDefinition $l) => $l->id, (new SideBySide($this->plan))->before($load));
        $blocker = array_values(array_intersect(array_keys($this->failed), $before))[0] ?? null;
        if ($blocker !== null) {
            $this->failed[$load->id] = "Waits for load \"{$this->plan->load($blocker)->name}\", which could not be tried.";

            return;
        }
        try {
            if ($this->gather($load)) {
                $book = $this->book($load);
                $this->walk($load, $book);
                $this->same += $book->same;
                $this->deltas?->tried($load, $book);
            }
        } catch (DefinitionError $e) {
            $this->failed[$load->id] = $e->getMessage();
        }
    }

    /** @return bool whether there is anything to try */
    private function gather(LoadDefinition $load): bool
    {
        if ($this->isWhole($load)) {
            return $this->of[$load->id]->feed_rows > 0;
        }
        $deferred = $this->plan->order()->deferredFields($load->entity->name);
        $this->deltas?->follow($load, new Children($this->ports->records, $load, $deferred), $this->definitions->entityIds());
        if ($this->run->kind === DryRunKind::Retry) {
            $this->tries->due($this->ledger, $load->id, Only::of((string) ($this->run->given['only'] ?? '')));
        }
        $supposed = $this->supposed;
        if ($supposed !== null && $supposed->corrects() && $supposed->load !== $load->id && $this->readsAsSupposed($load->id)) {
            $this->tries->besides($load->id, $supposed->load);
        }
        $this->tries->freed($load->id, $supposed !== null && $supposed->stays);
        $n = $this->tries->count($load->id);
        $this->run->update(['total' => $this->done + $n]);

        return $n > 0;
    }

    private function walk(LoadDefinition $load, DryLedger $book): void
    {
        $of = $this->of[$load->id];
        Following::complete($of->take);
        $mapper = $this->plan->mapper($load->id, $of->take->tidyColumns());
        $crosswalk = new DryCrosswalk($this->ledger, $this->rows, Spaces::of($this->definitions->migration));
        $deferred = $this->plan->order()->deferredFields($load->entity->name);
        foreach ($load->matches as $rule) {
            $this->matches->readTarget($this->ports->records, $load->entity, $rule);
        }
        $parents = new ParentResolver($load->entity, $crosswalk, $this->plan->normalisations(), $deferred);
        $meets = $this->matches->hasOthers($load->entity->name);
        $names = $this->plan->names($load->entity->name);
        $matcher = new Matcher($load, $crosswalk, $this->matches, $names, $meets, $this->pairs($load));
        $mark = new Mark($this->definitions->migration->installation, 0, 'dry run', '');
        $processor = new BatchProcessor(
            $load->entity, $load->policy, $mapper, $parents, $matcher, new Claims($load, $matcher), $this->target, $mark,
            $this->waivers($load->id),
            ...$this->standing($load, $deferred),
        );
        $work = new LoadWork(
            $this->staged($load), $book, $processor, $this->target, $mark->installation, 0, $load->id, self::STRETCH,
        );
        while (! $this->isStopped && $work->step(true)) {
            // One stretch after another.
        }
    }

    /**
     * @param  list<string>  $deferred  fields whose parents come later
     * @return list<mixed> what a batch is told of rows that stand
     */
    private function standing(LoadDefinition $load, array $deferred): array
    {
        $round = $this->run->round;
        if ($this->deltas === null || $round === null || $this->ledger === null) {
            return [];
        }
        $progress = (new PassLoad(['load_id' => $load->id]))->setRelation('take', $this->of[$load->id]->take);
        $sent = SentRows::of($round, Spaces::of($this->definitions->migration));
        $sent = new SentAlone($sent, $this->ledger, $progress, $this->definitions->entityIds()[$load->entity->name]);

        return [
            new DryStanding($this->ledger, $this->rows, $load->id), $load->reads(),
            new OthersGuard($load, $deferred, $this->ports->records, $sent),
        ];
    }

    private function book(LoadDefinition $load): DryLedger
    {
        $of = $this->of[$load->id];

        return new DryLedger(
            $load,
            $this->definitions->entityIds()[$load->entity->name],
            $of->space_id,
            $this->rows,
            $this->tries,
            $this->matches,
            $this->isWhole($load) ? $of->take->lastRow() : null,
            $of->take->lastRow(),
            function (int $rows): void {
                $this->isStopped = ! $this->run->reached($this->done += $rows);
            },
        );
    }

    private function staged(LoadDefinition $load): FeedRows
    {
        $rows = new StagedRows($this->of[$load->id]->take_id);
        if ($this->supposed === null || ! $this->supposed->corrects() || ! $this->readsAsSupposed($load->id)) {
            return $rows;
        }
        $answered = $this->supposed->answered();
        if ($answered !== null) {
            return new AnsweredRows($rows, $answered, count($this->of[$load->id]->take->columns ?? []));
        }
        $header = $this->supposed->header;
        $position = $header === null ? null : $this->of[$load->id]->take->tidyColumns()->find($header)?->position;
        if ($header !== null && $position === null) {
            throw new \DomainException("There is no column \"$header\".");
        }

        return new SupposedRows($rows, $this->meant(...), $position, $this->supposed);
    }

    private function pairs(LoadDefinition $of): Pairs
    {
        $load = $of->id;
        $lane = $this->ledger?->lane() ?? 0;
        $said = new PairBook($load, $this->run->target_id, $lane, $this->of[$load]->take_id, (int) $this->run->decision);
        $earlier = Lane::query()->find($this->run->round?->lane->earlier_lane_id ?? $this->run->given['earlier'] ?? 0);
        $book = EarlierPairs::beside($said, $of, $earlier, Spaces::of($this->definitions->migration), $this->ports->records);
        $supposed = $this->supposed;

        return $supposed?->load === $load && $supposed->record !== null
            ? new SupposedPairs($book, $supposed->rows, $supposed->record)
            : $book;
    }

    private function waivers(int $load): Waivers
    {
        $round = $this->run->round;
        $decision = (int) $this->run->decision;
        $book = new WaiverBook($load, $this->of[$load]->take_id, $decision, $round?->kind === 'cutover' ? $round : null);

        return $this->supposed?->stays && $this->supposed->load === $load ? new SupposedWaivers($book, $this->meant(...)) : $book;
    }

    /**
     * @param  list<int>  $rows
     * @return list<int> those of them the repair is about
     */
    private function meant(array $rows): array
    {
        $supposed = $this->supposed;

        return $supposed === null ? [] : array_values(array_unique([
            ...array_intersect($rows, $supposed->rows),
            ...$supposed->causes === null ? [] : $this->tries->among($supposed->load, $supposed->causes, $rows),
        ]));
    }

    /** Whether a load reads the take whose rows are to be corrected. */
    private function readsAsSupposed(int $load): bool
    {
        return $this->of[$load]->take_id === ($this->of[$this->supposed->load ?? 0] ?? null)?->take_id;
    }

    /** @return array<string, mixed> */
    private function found(): array
    {
        $names = $this->plan->loads === [] ? [] : array_column($this->plan->loads, 'name', 'id');

        return [
            'tried' => $this->done,
            'takes' => array_map(fn (RoundLoad $of) => $of->take_id, $this->of),
            'same' => $this->same,
            'delta' => $this->deltas?->found(),
            'rows' => array_map(get_object_vars(...), $this->rows->summary()),
            'causes' => array_map(get_object_vars(...), $this->rows->causes(self::CAUSES)),
            'unforeseen' => $this->target->unforeseen(),
            'failed' => array_map(fn (int $load, string $why) => "$names[$load]: $why", array_keys($this->failed), $this->failed),
        ];
    }
}
