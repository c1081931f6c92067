<?php

namespace App\Reconciling;

use App\Catalogue\Definitions;
use App\Ledger\LedgerReader;
use App\Models\LoadState;
use App\Models\PassKind;
use App\Models\PassLoad;
use App\Models\Round;
use App\Targets\Ports;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Reconciling\CountProof;

/** Count proofs of a round, per load and entity, from the ledger, the takes and the target itself. */
final class Proofs
{
    /** Why the target could not be counted, if so. */
    public ?string $targetError = null;

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

    /** @return array<string, CountProof> entity → proof, the target counted now */
    public function entities(): array
    {
        $loads = $this->loads();
        $records = Ports::of($this->round->target()->firstOrFail())->records;
        $byEntity = [];
        foreach ($this->definitions->loads() as $load) {
            if (isset($loads[$load->id])) {
                $byEntity[$load->entity->name][] = $loads[$load->id];
            }
        }
        $proofs = [];
        foreach ($byEntity as $entity => $parts) {
            $after = null;
            if ($this->targetError === null) {
                try {
                    $after = $records->count($entity);
                } catch (TargetUnavailable $e) {
                    $this->targetError = $e->getMessage();
                }
            }
            $sum = CountProof::sum(...$parts);
            $proofs[$entity] = new CountProof(
                $sum->sourceRows,
                $sum->feedRows,
                $sum->outcomes,
                $sum->notReached,
                $this->round->target_before[$entity] ?? null,
                $after,
            );
        }

        return $proofs;
    }

    public function definitions(): Definitions
    {
        return $this->definitions;
    }

    /**
     * How far the first pass has come. Rows whose key was announced have an outcome (pending) before their stretch comes.
     *
     * @return array<int, int> load → row number
     */
    private function reached(): array
    {
        $reached = [];
        $first = PassLoad::query()
            ->whereHas('pass', fn ($q) => $q->where('round_id', $this->round->id)->where('kind', PassKind::First))
            ->with('take')
            ->get();
        foreach ($first as $load) {
            $reached[$load->load_id] = $load->state === LoadState::Done
                ? (int) $load->take->rows
                : max($load->cursor_row, (int) $load->key_cursor);
        }

        return $reached;
    }
}
