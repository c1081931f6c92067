<?php

namespace App\View\Tables;

use App\View\Page;
use App\View\Say;
use Illuminate\Http\Request;

/** Tables of rows and records that do not add up. */
final readonly class RowTables
{
    public function __construct(private Request $request, private Page $page)
    {
    }

    /** @param  array<int, list<int>>  $lost  load → rows */
    public function lost(array $lost): Table
    {
        $rows = [];
        foreach ($lost as $load => $numbers) {
            foreach ($numbers as $row) {
                $rows[] = (object) ['load_id' => $load, 'row_no' => $row];
            }
        }

        return Table::of($this->request, 'lost', [
            Column::text('load', 'Load', fn ($r) => $this->load($r->load_id)),
            Column::number('row', 'Row', fn ($r) => $r->row_no),
        ], $rows);
    }

    /** @param  array<string, array{gone: list<array{int, int, string}>, foreign: list<string>, before: int}>  $gaps */
    public function gone(array $gaps): Table
    {
        $rows = [];
        foreach ($gaps as $entity => $gap) {
            foreach ($gap['gone'] as [$load, $row, $key]) {
                $rows[] = (object) ['entity' => $entity, 'load_id' => $load, 'row_no' => $row, 'key' => $key];
            }
        }

        return Table::of($this->request, 'gone', [
            Column::text('entity', 'Entity', fn ($r) => $r->entity),
            Column::text('load', 'Load', fn ($r) => $this->load($r->load_id)),
            Column::number('row', 'Row', fn ($r) => $r->row_no),
            Column::text('key', 'New key', fn ($r) => $r->key),
        ], $rows);
    }

    /** @param  array<string, array{gone: list<array{int, int, string}>, foreign: list<string>, before: int}>  $gaps */
    public function foreign(array $gaps): Table
    {
        $rows = [];
        foreach ($gaps as $entity => $gap) {
            foreach ($gap['foreign'] as $key) {
                $rows[] = (object) ['entity' => $entity, 'key' => $key];
            }
        }

        return Table::of($this->request, 'foreign', [
            Column::text('entity', 'Entity', fn ($r) => $r->entity),
            Column::text('key', 'New key', fn ($r) => $r->key),
        ], $rows);
    }

    /** @param  list<\stdClass>  $found  lines of the ledger */
    public function found(array $found): Table
    {
        return Table::of($this->request, 'found', [
            Column::text('key', 'Key', fn ($r) => Say::key((string) $r->legacy_key)." $r->target_key"),
            Column::text('load', 'Load', fn ($r) => $this->load((int) $r->load_id)),
            Column::number('row', 'Row', fn ($r) => (int) $r->row_no),
            Column::text('outcome', 'Outcome', fn ($r) => $r->outcome),
        ], $found);
    }

    private function load(int $id): string
    {
        return $this->page->all()->get($id)->name ?? '';
    }
}
