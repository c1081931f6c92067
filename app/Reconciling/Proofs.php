<?php

namespace App\Reconciling;

use App\Catalogue\Definitions;
use App\Ledger\LedgerReader;
use App\Models\PassKind;
use App\Models\Round;
use App\Targets\TargetLink;
use App\Targets\TargetRecords;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Reconciling\CountProof;
use Illuminate\Support\Facades\DB;

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
        foreach ($this->definitions->loads() as $load) {
            [$feed, $source, $notReached] = $reached[$load->id] ?? [
                (int) $load->extract->take?->rows,
                (int) $load->extract->take?->source_rows,
                (int) $load->extract->take?->rows,
            ];
            $proofs[$load->id] = new CountProof($source, $feed, $outcomes[$load->id] ?? [], $notReached);
        }

        return $proofs;
    }

    /** @return array<string, CountProof> entity → proof, the target counted now */
    public function entities(): array
    {
        $loads = $this->loads();
        $records = new TargetRecords(new TargetLink($this->round->target()->firstOrFail()));
        $byEntity = [];
        foreach ($this->definitions->loads() as $load) {
            $byEntity[$load->entity->name][] = $loads[$load->id];
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
     * Feed, source count and rows the first pass has not come to, for the take the round works on. Rows whose key was scanned
     * ahead have an outcome (pending) before their batch comes.
     *
     * @return array<int, array{int, int, int}>
     */
    private function reached(): array
    {
        $reached = [];
        $rows = DB::select(
            'SELECT pl.load_id, t.`rows` AS feed, t.source_rows AS source, pl.state, pl.cursor_row, COALESCE(pl.key_cursor, 0) AS key_cursor
            FROM pass_loads pl JOIN passes p ON p.id = pl.pass_id JOIN takes t ON t.id = pl.take_id
            WHERE p.round_id = ? AND p.kind = ?',
            [$this->round->id, PassKind::First->value],
        );
        foreach ($rows as $row) {
            $to = $row->state === 'done' ? (int) $row->feed : max((int) $row->cursor_row, (int) $row->key_cursor);
            $reached[(int) $row->load_id] = [(int) $row->feed, (int) $row->source, max(0, (int) $row->feed - $to)];
        }

        return $reached;
    }
}
