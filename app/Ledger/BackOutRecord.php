<?php

namespace App\Ledger;

use App\Support\BulkRows;
use Baggage\Core\Loading\Undoing;
use Baggage\Core\Reconciling\CountProof;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;

/** What a back-out leaves in the ledger for a stretch of rows, as text ready to be written. */
final class BackOutRecord
{
    public string $outcomes = '';

    public string $causes = '';

    public int $causeCount = 0;

    public string $links = '';

    public int $linkCount = 0;

    /** @var list<MatchEntry> */
    public array $matches = [];

    /** Records the target has more or fewer for it. */
    public int $made = 0;

    /** Removed records that are there again. */
    public int $revived = 0;

    /** @var list<int> rows that get the line they had */
    public array $rows = [];

    /** @var list<string> legacy keys they stand with */
    public array $standing = [];

    /** @var list<int> rows that had none, and wait */
    public array $waiting = [];

    /** @var array<string, int> outcome → rows */
    public array $outcomesNow = [];

    /** @var array<int, array<string, int>> cause → outcome → rows */
    public array $ofCauses = [];

    /** @var list<string> target keys that rows stand on no more, or with other values */
    public array $keys = [];

    /** @var array{removed: int, restored: int, left: int} what was done about records */
    public array $did = ['removed' => 0, 'restored' => 0, 'left' => 0];

    /** @var list<Undoing> whose record is left, in whole or in part */
    public array $left = [];

    /** @param  list<\stdClass>  $cleared  references to records of the stretch that wait again: load_id, item, field */
    public function __construct(public readonly int $after, public readonly array $cleared)
    {
    }

    /**
     * @param  \stdClass|null  $line  as it was before; null where the row had none, and waits
     * @param  bool  $reads  whether the load makes no records of its own
     */
    public function row(Undoing $undoing, ?\stdClass $line, bool $reads): void
    {
        $this->made += $undoing->records;
        $this->revived += max(0, $undoing->records);
        $undoing->left === null ?: $this->left[] = $undoing;
        $this->did['left'] += $undoing->left === null ? 0 : 1;
        if ($undoing->keeps()) {
            return;
        }
        $this->did['removed'] += $undoing->records < 0 ? 1 : 0;
        $this->did['restored'] += $undoing->changed !== null && $undoing->left === null ? 1 : 0;
        $key = $undoing->made ?? $undoing->changed;
        $key === null ?: $this->keys[] = $key;
        if ($line === null) {
            $this->waiting[] = $undoing->row;

            return;
        }
        $outcome = $line->outcome;
        $stands = $line->target_key !== null && ! $reads ? 1 : null;
        $this->rows[] = $undoing->row;
        $stands === null ?: $this->standing[] = (string) ($line->legacy_key ?? $undoing->legacyKey);
        $this->outcomesNow[$outcome] = ($this->outcomesNow[$outcome] ?? 0) + 1;
        if ($line->target_key !== null && in_array($outcome, LedgerReader::OLDER, true)) {
            $this->outcomesNow[CountProof::OLDER] = ($this->outcomesNow[CountProof::OLDER] ?? 0) + 1;
        }
        $this->outcomes .= BulkRows::line([
            $undoing->row, $line->legacy_key ?? $undoing->legacyKey, $stands, $outcome, $line->target_key, $line->sent_hash,
            (int) $line->pass_id,
        ]);
        if ($line->cause_id !== null) {
            $cause = (int) $line->cause_id;
            $this->causeCount++;
            $this->ofCauses[$cause][$outcome] = ($this->ofCauses[$cause][$outcome] ?? 0) + 1;
        }
    }

    /** The causes of its rows, once it is known which loads and lanes they are of. */
    public function cause(int $lane, int $load, int $row, int $cause): void
    {
        $this->causes .= BulkRows::line([$lane, $load, $row, $cause, null]);
    }

    /** What a row that stands again is matched by, and which references of it are set later. */
    public function stands(Journey $journey, LoadRun $run, Spaces $spaces): void
    {
        foreach ($journey->outcome === Outcome::Merged ? [] : $journey->matchKeys as $key) {
            $this->matches[] = new MatchEntry($key, (string) $journey->targetKey, $run->load->id, $journey->row);
        }
        foreach ($journey->outcome === Outcome::Merged ? [] : $journey->links as $field => $link) {
            $this->links .= BulkRows::line([
                $run->lane(), $run->load->id, $journey->row, $field, $spaces->id($link['entity'], $link['space']), $link['key'],
                $journey->targetKey, ($link['isSet'] ? LinkState::Made : LinkState::Waiting)->value,
            ]);
            $this->linkCount++;
        }
    }
}
