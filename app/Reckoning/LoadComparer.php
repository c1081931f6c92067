<?php

namespace App\Reckoning;

use App\Ledger\CountedLines;
use App\Ledger\SentRows;
use App\Models\PassLoad;
use Baggage\Core\Reconciling\ComparedRow;
use Baggage\Core\Reconciling\CountedRow;
use Baggage\Core\Reconciling\LoadComparison;
use Baggage\Core\Reconciling\Part;

/** Compares pages of one load with the records that were sent for them, made again by the plan and decisions of their pass. */
final readonly class LoadComparer
{
    /**
     * @param  PassLoad  $progress  of the load, in any pass
     * @param  int  $entity  id of what the load fills
     * @param  array<int, list<string>>  $later  load that may change records of the same entity → fields it has a rule for
     * @param  array<int, int>  $places  load → its place in the order
     * @param  bool  $updates  whether a record that was left unchanged said what the row has to say
     */
    public function __construct(
        public LoadComparison $comparison,
        private SentRows $sent,
        private CountedLines $lines,
        private PassLoad $progress,
        private int $entity,
        private array $later,
        private array $places,
        private bool $updates,
    ) {
    }

    public function page(CountedPage $page): void
    {
        $passes = $rows = [];
        foreach ($page->rows as $row) {
            $outcome = $page->lines[$row->row]['outcome'] ?? null;
            $isOf = $row->part === Part::AsIs
                ? $this->updates || $outcome !== 'unchanged'
                : $row->targetKey !== null && isset($page->stood[$row->row]);
            if ($isOf) {
                $rows[] = $row;
                $passes[$row->row] = $row->part === Part::AsIs ? $page->lines[$row->row]['pass'] : $page->stood[$row->row]['pass'];
            }
        }
        if ($passes === []) {
            return;
        }
        $isAsNow = fn (CountedRow $r) => $r->part === Part::AsIs;
        $known = array_intersect_key($page->now, array_flip(array_map(fn (CountedRow $r) => $r->row, array_filter($rows, $isAsNow))));
        $sent = $this->sent->journeys($this->progress, $passes, $known);
        $holds = $this->lines->holds($this->progress->load_id, $passes);
        $left = $this->left($rows, $passes);
        $sending = $this->updates ? ['loaded', 'updated', 'unchanged'] : ['loaded', 'updated'];
        foreach ($rows as $row) {
            $outcome = $row->part === Part::AsIs ? $page->lines[$row->row]['outcome'] : $page->stood[$row->row]['outcome'];
            $journey = in_array($outcome, $sending, true) ? $sent[$row->row] ?? null : null;
            $this->comparison->row(new ComparedRow(
                $row->row,
                $journey,
                $outcome === 'loaded',
                $row->record,
                $left[$row->row] ?? [],
                $holds[$row->row] ?? [],
            ));
        }
    }

    /**
     * Fields of records that other rows wrote later.
     *
     * @param  non-empty-list<CountedRow>  $rows
     * @param  array<int, int>  $passes  row → the pass that sent it
     * @return array<int, array<string, true>> row → fields
     */
    private function left(array $rows, array $passes): array
    {
        if ($this->later === []) {
            return [];
        }
        $keys = array_values(array_unique(array_map(fn (CountedRow $r) => (string) $r->targetKey, $rows)));
        $writers = $this->lines->writers($this->entity, $keys);
        $left = [];
        foreach ($rows as $row) {
            $own = [$this->places[$this->progress->load_id] ?? 0, $row->row];
            foreach ($writers[(string) $row->targetKey] ?? [] as $other) {
                // A row may have been put over a record again without a line of its own about it: later by either is later.
                $isLater = $other['pass'] > $passes[$row->row] || [$this->places[$other['load']] ?? 0, $other['row']] > $own;
                $isOther = $other['load'] !== $this->progress->load_id || $other['row'] !== $row->row;
                if ($isOther && $isLater && isset($this->later[$other['load']])) {
                    $left[$row->row] = ($left[$row->row] ?? []) + array_fill_keys($this->later[$other['load']], true);
                }
            }
        }

        return $left;
    }
}
