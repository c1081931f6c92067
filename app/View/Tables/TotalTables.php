<?php

namespace App\View\Tables;

use App\Models\ControlTotal;
use App\Reckoning\TotalLine;
use App\View\ComparedField;
use Baggage\Core\Reconciling\ControlTotal as Described;
use Illuminate\Http\Request;

/** Tables of control totals and of what was compared. */
final readonly class TotalTables
{
    public function __construct(private Request $request)
    {
    }

    /** @param  array<TotalLine>  $lines */
    public function counted(array $lines): Table
    {
        $size = fn (?string $v) => is_numeric($v) ? abs((float) $v) : ($v === null ? 0 : 1);

        return Table::of($this->request, 'counted', [
            Column::text('total', 'Total', fn (TotalLine $l) => $l->total->name),
            Column::text('legacy', 'Legacy rows that stand', fn (TotalLine $l) => $l->legacy()),
            Column::number('difference', 'Difference', fn (TotalLine $l) => $size($l->difference())),
            Column::text('target', 'Their records', fn (TotalLine $l) => $l->target()),
            Column::number('groups', 'Groups off', fn (TotalLine $l) => $l->groupsDiffer + $l->groupsDoNotFoot),
            Column::number('rows', 'Rows that differ', fn (TotalLine $l) => $l->figures->differ ?? 0),
        ], $lines);
    }

    /** @param  iterable<ControlTotal>  $totals */
    public function stated(iterable $totals): Table
    {
        $rows = [];
        foreach ($totals as $total) {
            $of = $total->described();
            $rows[] = (object) ['id' => $total->id, 'total' => $of, 'legacy' => is_array($of->legacy) ? $of->legacy : ['' => $of->legacy]];
        }

        return Table::of($this->request, 'totals', [
            Column::text('name', 'Total', fn ($r) => $r->total->name),
            Column::text('over', 'Over', fn ($r) => $r->total->load ?? $r->total->entity),
            Column::text('kind', 'Kind', fn ($r) => $r->total->kind->label()),
            Column::text('field', 'Field', fn ($r) => $r->total->field),
            Column::text('legacy', 'Legacy', fn ($r) => implode('; ', $r->legacy)),
            Column::text('group', 'Groups', fn ($r) => (string) $r->total->groupField),
            Column::number('tolerance', 'Accepted', fn ($r) => (float) $r->total->tolerance),
        ], $rows);
    }

    /** @param  list<array{total: Described, why: string}>  $suggested */
    public function suggested(array $suggested): Table
    {
        return Table::of($this->request, 'suggested', [
            Column::text('load', 'Load', fn ($s) => (string) $s['total']->load),
            Column::text('field', 'Field', fn ($s) => $s['total']->field),
            Column::text('kind', 'Kind', fn ($s) => $s['total']->kind->label()),
            Column::text('legacy', 'Legacy', fn ($s) => (string) $s['total']->legacyOf((string) $s['total']->load)),
            Column::text('group', 'Groups', fn ($s) => (string) $s['total']->groupField),
            Column::text('why', 'Because', fn ($s) => $s['why']),
            Column::bare('Keep'),
        ], $suggested);
    }

    /** @param  list<array{load: int, name: string, missing: int, fields: list<ComparedField>}>  $loads */
    public function compared(array $loads): Table
    {
        $rows = [];
        foreach ($loads as $load) {
            foreach ($load['fields'] as $field) {
                $rows[] = (object) ['load' => $load['load'], 'name' => $load['name'], 'field' => $field];
            }
        }
        // What differs is looked at first.
        usort($rows, fn ($a, $b) => ($b->field->different <=> $a->field->different));

        return Table::of($this->request, 'fields', [
            Column::text('load', 'Load', fn ($r) => $r->name),
            Column::text('field', 'Field', fn ($r) => $r->field->name),
            Column::number('equal', 'Equal', fn ($r) => $r->field->equal),
            Column::number('different', 'Different', fn ($r) => $r->field->different),
            Column::number('left', 'Not compared', fn ($r) => $r->field->left),
            Column::text('way', 'In what way', fn ($r) => implode('; ', array_map(
                fn (array $c) => "$c[class] $c[rows]",
                $r->field->classes,
            ))),
        ], $rows);
    }
}
