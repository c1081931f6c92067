<?php

namespace App\Reconciling;

use App\Catalogue\Definitions;
use App\Ledger\Counters;
use App\Ledger\LedgerReader;
use App\Models\Lane;
use App\Models\LoadState;
use App\Models\PassKind;
use App\Models\PassLoad;
use App\Models\Round;
use App\Targets\Ports;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Reconciling\CountProof;
use Baggage\Core\Rows\Outcome;

/** Count proofs of a round, per load and entity, from the ledger, the takes and the target itself. */
final class Proofs
{
    /** Why the target could not be counted, if so. */
    public ?string $targetError = null;

    private ?bool $newest = null;

    private function __construct(private readonly Round $round, private readonly Definitions $definitions)
    {
    }

    public static function of(Round $round): self
    {
        return new self($round, new Definitions($round->migration()->firstOrFail()));
    }

    /**
     * @param  bool  $recount  from the ledger row by row; otherwise from the tallies kept with every batch
     * @return array<int, CountProof> load → proof, without the target
     */
    public function loads(bool $recount = true): array
    {
        $ledger = new LedgerReader($this->round);
        $outcomes = $recount ? $ledger->counted() : $ledger->tallies();
        $reached = $this->reached();
        $proofs = [];
        foreach ($this->round->roundLoads()->orderBy('id')->get() as $of) {
            $proofs[$of->load_id] = new CountProof(
                $of->source_rows,
                $of->feed_rows,
                $outcomes[$of->load_id] ?? [],
                $of->feed_rows - ($reached[$of->load_id] ?? 0),
            );
        }

        return $proofs;
    }

    /** @return array<string, CountProof> entity → proof, with what the target holds */
    public function entities(): array
    {
        $loads = $this->loads();
        $byEntity = [];
        foreach ($this->definitions->loads() as $load) {
            if (isset($loads[$load->id])) {
                $byEntity[$load->entity->name][] = $loads[$load->id];
            }
        }
        $made = Counters::made($this->round->laneId());
        $counted = Counters::ofPasses($this->round->laneId());
        $ids = $this->definitions->entityIds();
        $proofs = [];
        foreach ($byEntity as $entity => $parts) {
            $sum = CountProof::sum(...$parts);
            $passes = $counted[$ids[$entity]] ?? [];
            [$after, $other] = $this->after((string) $entity, $passes);
            $proofs[$entity] = new CountProof(
                $sum->sourceRows,
                $sum->feedRows,
                $sum->outcomes,
                $sum->notReached,
                $passes[0][0] ?? null,
                $after,
                $other,
                $made[$ids[$entity]] ?? 0,
            );
        }

        return $proofs;
    }

    /**
     * What the target holds, and how much of that came or went between passes and since the last of them.
     *
     * @param  list<array{int, int|null}>  $passes  before and after of each
     * @return array{int|null, int}
     */
    private function after(string $entity, array $passes): array
    {
        $kept = $this->round->figures[$entity] ?? null;
        if ($kept !== null) {
            return [$kept['after'], $kept['other']];
        }
        $other = 0;
        $last = null;
        foreach ($passes as [$before, $after]) {
            $other += $last === null ? 0 : $before - $last;
            $last = $after;
        }
        if ($this->round->hasEnded() || ! $this->isNewest() || $this->targetError !== null) {
            return [$last, $other];
        }
        try {
            $now = Ports::of($this->round->target()->firstOrFail())->records->count($entity);
        } catch (TargetUnavailable $e) {
            $this->targetError = $e->getMessage();

            return [$last, $other];
        }

        return [$now, $other + ($last === null || $now === null ? 0 : $now - $last)];
    }

    /** Whether no later round writes into the same target: its records say nothing of this one then. */
    private function isNewest(): bool
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
        $out = PassLoad::query()
            ->where('pass_id', $this->round->latestPass()?->id)
            ->where('state', LoadState::LeftOut)
            ->pluck('load_id')
            ->all();

        return $out === [] ? [] : array_filter(array_map(
            fn (CountProof $p) => $p->count(Outcome::Pending),
            array_intersect_key($this->loads(false), array_flip($out)),
        ));
    }

    public function definitions(): Definitions
    {
        return $this->definitions;
    }

    /**
     * How many rows the first pass has come to. Rows whose key has a line have an outcome (pending) before their stretch comes.
     *
     * @return array<int, int> load → rows
     */
    private function reached(): array
    {
        $reached = [];
        $loads = PassLoad::query()
            ->whereHas('pass', fn ($q) => $q->where('round_id', $this->round->id))
            ->with(['take', 'pass'])
            ->get()
            ->filter(fn (PassLoad $l) => $l->key_cursor !== null || $l->pass->kind === PassKind::First);
        foreach ($loads as $load) {
            $done = $load->pass->kind === PassKind::First ? $load->rows_done : 0;
            $reached[$load->load_id] = max(
                $reached[$load->load_id] ?? 0,
                $load->state === LoadState::Done ? (int) $load->take->rows : max($done, (int) $load->key_cursor),
            );
        }

        return $reached;
    }
}
