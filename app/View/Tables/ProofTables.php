<?php

namespace App\View\Tables;

use App\Overview\ListedLoad;
use App\Reconciling\Counted;
use App\View\Page;
use Baggage\Core\Reconciling\CountProof;
use Baggage\Core\Rows\Outcome;
use Illuminate\Http\Request;

/** Tables of Reconciliation. */
final readonly class ProofTables
{
    public const OUTCOMES = ['loaded', 'updated', 'unchanged', 'merged', 'excluded', 'held', 'rejected', 'waived', 'pending'];

    public function __construct(private Request $request, private Page $page)
    {
    }

    /** @param  array<string, CountProof>  $proofs  by entity */
    public function entities(array $proofs): Table
    {
        $hasOthers = array_filter($proofs, fn (CountProof $p) => $p->otherOrigin !== 0) !== [];
        $hasRemoved = array_filter($proofs, fn (CountProof $p) => $p->removed !== 0) !== [];
        $rows = array_map(fn (string $e, CountProof $p) => (object) ['entity' => $e, 'proof' => $p], array_keys($proofs), $proofs);

        return Table::of($this->request, 'entities', array_values(array_filter([
            Column::text('entity', 'Entity', fn ($r) => $r->entity),
            Column::plain('Count proof'),
            ...$this->figures($proofs),
            Column::number('before', 'Target before', fn ($r) => $r->proof->targetBefore),
            Column::number('made', 'Made', fn ($r) => $r->proof->everMade()),
            $hasRemoved ? Column::number('removed-records', 'Records removed', fn ($r) => $r->proof->removed) : null,
            Column::number('now', 'Target now', fn ($r) => $r->proof->targetAfter),
            $hasOthers ? Column::number('other', 'Of other origin', fn ($r) => $r->proof->otherOrigin) : null,
            Column::number('gap', 'Gap', fn ($r) => $r->proof->targetGap()),
        ])), $rows, 500);
    }

    /** @param  array<int, CountProof>  $proofs  by load */
    public function loads(array $proofs): Table
    {
        $rows = $this->page->loads()
            ->filter(fn (ListedLoad $l) => isset($proofs[$l->id]))
            ->map(fn (ListedLoad $l) => (object) ['load' => $l, 'proof' => $proofs[$l->id]]);

        return Table::of($this->request, 'loads', [
            Column::text('load', 'Load', fn ($r) => $r->load->name),
            Column::text('reads', 'Reads', fn ($r) => "{$r->load->source} {$r->load->extract}"),
            ...$this->figures($proofs),
        ], $rows, 500);
    }

    /** @param  list<\stdClass>  $open  of Links::open */
    public function links(array $open, ?Counted $counted): Table
    {
        $rows = [];
        foreach ($counted->links ?? [] as $of => $made) {
            [$load, $field] = explode(' ', $of, 2);
            $rows[$of] = (object) ['load_id' => (int) $load, 'field' => $field, 'made' => $made, 'waiting' => 0];
        }
        foreach ($open as $link) {
            $of = "$link->load_id $link->field";
            $rows[$of] ??= (object) ['load_id' => (int) $link->load_id, 'field' => $link->field, 'made' => null, 'waiting' => 0];
            $rows[$of]->waiting = (int) $link->waiting;
        }
        $here = $this->page->loads()->keyBy('id');

        return Table::of($this->request, 'links', [
            Column::text('load', 'Load', fn ($r) => $here[$r->load_id]->name ?? ''),
            Column::text('field', 'Field', fn ($r) => $r->field),
            Column::number('made', 'Set', fn ($r) => $r->made),
            Column::number('waiting', 'Waiting for their parent', fn ($r) => $r->waiting),
        ], array_filter($rows, fn ($r) => isset($here[$r->load_id])));
    }

    /**
     * @param  array<array-key, CountProof>  $proofs
     * @return array<string, string> what stands beside the sum in one of them → its title
     */
    public static function beside(array $proofs): array
    {
        $titles = [
            CountProof::OLDER => 'With older values', Outcome::Gone->value => 'Gone, kept', Outcome::Review->value => 'Gone, to decide',
            Outcome::Withdrawn->value => 'Gone, no record',
        ];

        return array_filter($titles, fn (string $of) => array_filter($proofs, fn (CountProof $p) => ($p->outcomes[$of] ?? 0) > 0) !== [],
            ARRAY_FILTER_USE_KEY);
    }

    /**
     * Outcomes with a column: those some row has, and those one looks for.
     *
     * @param  array<array-key, CountProof>  $proofs
     * @return list<string>
     */
    public static function shown(array $proofs): array
    {
        $has = fn (string $o) => array_filter($proofs, fn (CountProof $p) => $p->count(Outcome::from($o)) > 0) !== [];

        return array_values(array_filter(self::OUTCOMES, fn (string $o) => in_array($o, ['loaded', 'held', 'rejected'], true) || $has($o)));
    }

    /** @param  array<array-key, CountProof>  $proofs */
    private function areStated(array $proofs): bool
    {
        return array_filter($proofs, fn (CountProof $p) => $p->statedRows !== null) !== [];
    }

    /**
     * @param  array<array-key, CountProof>  $proofs
     * @return list<Column> what came in, and what became of it
     */
    private function figures(array $proofs): array
    {
        $beside = self::beside($proofs);

        return [
            ...($this->areStated($proofs) ? [Column::number('stated', 'Stated', fn ($r) => $r->proof->statedRows)] : []),
            Column::number('source', 'Source', fn ($r) => $r->proof->sourceRows),
            Column::number('feed', 'Feed', fn ($r) => $r->proof->feedRows),
            ...array_map(
                fn (string $o) => Column::number($o, ucfirst($o), fn ($r) => $r->proof->count(Outcome::from($o))),
                self::shown($proofs),
            ),
            Column::number('unaccounted', 'Unac­counted', fn ($r) => $r->proof->unaccounted()),
            ...array_map(
                fn (string $of, string $title) => Column::number($of, $title, fn ($r) => $r->proof->outcomes[$of] ?? 0),
                array_keys($beside),
                $beside,
            ),
        ];
    }
}
