<?php

namespace App\Reconciling;

use App\Catalogue\Definitions;
use App\Ledger\Counters;
use App\Ledger\LedgerReader;
use App\Models\Entity;
use App\Models\Lane;
use App\Models\LoadState;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassLoad;
use App\Models\Round;
use App\Models\RoundLoad;
use App\Targets\Ports;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Reconciling\CountProof;
use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Collection;

/** Count proofs of a round, per load and entity, from the ledger, the takes and the target itself. */
final class Proofs
{
    private ?bool $newest = null;

    private ?Definitions $definitions = null;

    /** @var array<int, CountProof>|null by load, from the tallies */
    private ?array $tallied = null;

    /** @var array<int, array<string, int>>|null load → outcome → rows, counted line by line */
    private ?array $counted = null;

    /** @var Collection<int, RoundLoad>|null */
    private ?Collection $loads = null;

    /** @var array<int, Entity>|null by load */
    private ?array $entities = null;

    /** @var Collection<int, Pass>|null */
    private ?Collection $passes = null;

    /** @param  string|null  $targetError  why the target could not be counted, if so */
    private function __construct(private readonly Round $round, public ?string $targetError = null)
    {
    }

    /** Counted now, line by line. */
    public static function of(Round $round): self
    {
        return new self($round);
    }

    /**
     * @param  bool  $recount  from the ledger row by row; otherwise from the tallies kept with every batch
     * @return array<int, CountProof> load → proof, without the target
     */
    public function loads(bool $recount = true): array
    {
        return $recount
            ? $this->proofs($this->counted ??= (new LedgerReader($this->round))->counted())
            : $this->tallied ??= $this->proofs($this->tallies());
    }

    /**
     * @param  array<int, array<string, int>>  $outcomes  load → outcome → rows
     * @return array<int, CountProof> load → proof, without the target
     */
    public function proofs(array $outcomes): array
    {
        $reached = $this->reached();
        $proofs = [];
        foreach ($this->roundLoads() as $of) {
            $proofs[$of->load_id] = new CountProof(
                $of->source_rows,
                $of->feed_rows,
                $outcomes[$of->load_id] ?? [],
                max(0, $of->feed_rows - ($reached[$of->load_id] ?? 0)),
                statedRows: $of->statedRows(),
            );
        }

        return $proofs;
    }

    /** @return array<string, CountProof> entity → proof, with what the target holds now */
    public function entities(): array
    {
        return $this->withTarget($this->loads(), $this->target());
    }

    /** @return array<string, int|null>|null entity → records in the target now; null where that says nothing of this round */
    public function target(): ?array
    {
        if ($this->round->hasEnded() || ! $this->isNewest()) {
            return null;
        }
        $held = Ports::of($this->round->target()->firstOrFail())->records;
        $now = [];
        try {
            foreach (array_unique(array_column($this->entitiesOf(), 'name')) as $entity) {
                $now[$entity] = $held->count($entity);
            }
        } catch (TargetUnavailable $e) {
            $this->targetError = $e->getMessage();

            return null;
        }

        return $now;
    }

    /**
     * @param  array<int, CountProof>  $loads  by load
     * @param  array<string, int|null>|null  $now  entity → records in the target; null where it was not counted since the last pass
     * @return array<string, CountProof> entity → proof, with what the target holds
     */
    public function withTarget(array $loads, ?array $now): array
    {
        $byEntity = [];
        foreach ($this->entitiesOf() as $load => $entity) {
            $byEntity[$entity->name][] = $loads[$load];
        }
        $made = Counters::made($this->round->laneId());
        $removed = Counters::removed($this->round->laneId());
        $counted = Counters::ofPasses($this->round->laneId());
        $ids = array_column($this->entitiesOf(), 'id', 'name');
        $proofs = [];
        foreach ($byEntity as $entity => $parts) {
            $sum = CountProof::sum(...$parts);
            $passes = $counted[$ids[$entity]] ?? [];
            [$after, $other] = $this->after($passes, $this->round->figures[$entity] ?? null, $now[$entity] ?? null);
            $proofs[$entity] = new CountProof(
                $sum->sourceRows,
                $sum->feedRows,
                $sum->outcomes,
                $sum->notReached,
                $passes[0][0] ?? null,
                $after,
                $other,
                $made[$ids[$entity]] ?? 0,
                $removed[$ids[$entity]] ?? 0,
                $sum->statedRows,
            );
        }

        return $proofs;
    }

    /**
     * What the target holds, and how much of that came or went between passes and since the last of them.
     *
     * @param  list<array{int, int|null}>  $passes  before and after of each
     * @param  array{after: int|null, other: int}|null  $kept  as the round ended
     * @return array{int|null, int}
     */
    private function after(array $passes, ?array $kept, ?int $now): array
    {
        if ($kept !== null) {
            return [$kept['after'], $kept['other']];
        }
        $other = 0;
        $last = null;
        foreach ($passes as [$before, $after]) {
            $other += $last === null ? 0 : $before - $last;
            $last = $after;
        }

        return $now === null ? [$last, $other] : [$now, $other + ($last === null ? 0 : $now - $last)];
    }

    /** Whether no later round writes into the same target: its records say nothing of this one then. */
    public function isNewest(): bool
    {
        return $this->newest ??= ! Lane::query()
            ->where('target_id', $this->round->lane?->target_id)
            ->where('id', '>', $this->round->laneId())
            ->whereHas('round.passes')
            ->exists();
    }

    /** @return array<int, int> load → rows that wait because the last pass was not about them */
    public function notAsked(): array
    {
        $last = $this->passes()->last();
        // What was backed out waits until somebody asks for it.
        $isOut = fn (PassLoad $l) => $last?->kind === PassKind::BackOut || $l->state === LoadState::LeftOut;
        $out = $last?->passLoads->filter($isOut)->pluck('load_id')->all() ?? [];

        return $out === [] ? [] : array_filter(array_map(
            fn (CountProof $p) => $p->count(Outcome::Pending),
            array_intersect_key($this->loads(false), array_flip($out)),
        ));
    }

    public function definitions(): Definitions
    {
        return $this->definitions ??= new Definitions($this->round->migration()->firstOrFail());
    }

    /** @return array<int, array<string, int>> load → outcome → rows, as kept with every batch; asked together with the loads */
    private function tallies(): array
    {
        [$this->loads, $tallies] = LedgerReader::loadsWithTallies($this->round);

        return $tallies;
    }

    /** @return Collection<int, RoundLoad> */
    private function roundLoads(): Collection
    {
        return $this->loads ??= RoundLoad::stated($this->round)->orderBy('round_loads.id')->get(RoundLoad::STATED);
    }

    /** @return array<int, Entity> load of the round → its entity, in the order of their loads */
    private function entitiesOf(): array
    {
        return $this->entities ??= $this->round
            ->roundLoads()
            ->orderBy('id')
            ->with('ofLoad.entity:id,name')
            ->get()
            ->mapWithKeys(fn (RoundLoad $l) => [$l->load_id => $l->ofLoad->entity])
            ->all();
    }

    /** @return Collection<int, Pass> of the round in their order, each with its loads; those have take_rows besides */
    public function passes(): Collection
    {
        if ($this->passes !== null) {
            return $this->passes;
        }
        $lines = PassLoad::query()
            ->rightJoin('passes', 'passes.id', '=', 'pass_loads.pass_id')
            ->leftJoin('takes', 'takes.id', '=', 'pass_loads.take_id')
            ->where('passes.round_id', $this->round->id)
            ->orderBy('passes.id')
            ->orderBy('pass_loads.wave')
            ->orderBy('pass_loads.id')
            ->get(['pass_loads.*', 'takes.rows as take_rows', ...array_map(fn ($c) => "passes.$c as of_$c", Pass::COLUMNS)]);

        return $this->passes = $lines->groupBy('of_id')->values()->map(function (Collection $of) {
            $line = $of->firstOrFail()->getAttributes();
            $pass = (new Pass)->newFromBuilder(array_combine(Pass::COLUMNS, array_map(fn ($c) => $line["of_$c"], Pass::COLUMNS)));

            return $pass->setRelation('passLoads', $of->whereNotNull('id')->values());
        });
    }

    /**
     * How many rows the first pass has come to. Rows whose key has a line have an outcome (pending) before their stretch comes.
     *
     * @return array<int, int> load → rows
     */
    private function reached(): array
    {
        $reached = [];
        foreach ($this->passes() as $pass) {
            foreach ($pass->passLoads as $load) {
                $isFirst = $pass->kind === PassKind::First;
                if ($load->compared !== null) {
                    // A delta begins by giving every row its line, and what came later is about the same rows or fewer.
                    $reached[$load->load_id] = PHP_INT_MAX;
                } elseif ($load->key_cursor !== null || $isFirst) {
                    $done = $isFirst ? $load->rows_done : 0;
                    $reached[$load->load_id] = max(
                        $reached[$load->load_id] ?? 0,
                        $load->state === LoadState::Done ? (int) $load->getAttribute('take_rows') : max($done, (int) $load->key_cursor),
                    );
                }
            }
        }

        return $reached;
    }
}
