<?php

namespace App\View\Tables;

use App\Models\Extract;
use App\Models\Migration;
use App\Support\When;
use Illuminate\Http\Request;

/** Tables of Sources, and of the migrations themselves. */
final class SourceTables
{
    /**
     * @param  iterable<Extract>  $extracts
     * @param  array<int, int>  $open  extract → open findings
     */
    public static function extracts(Request $request, iterable $extracts, array $open): Table
    {
        return Table::of($request, 'extracts', [
            Column::text('source', 'Of', fn (Extract $e) => $e->source->code),
            Column::text('name', 'Extract', fn (Extract $e) => $e->name),
            Column::number('rows', 'Rows', fn (Extract $e) => $e->take?->rows),
            Column::number('own', 'Own count', fn (Extract $e) => $e->take?->counted_by === null ? null : $e->take->source_rows),
            Column::number('columns', 'Columns', fn (Extract $e) => $e->take === null ? null : count($e->columns ?? [])),
            Column::text('read', 'Read as', fn (Extract $e) => $e->settings()->describe()),
            Column::number('take', 'Take', fn (Extract $e) => $e->take?->number),
            Column::text('taken', 'Taken', fn (Extract $e) => When::written($e->take?->taken_at)),
            Column::number('bytes', 'Bytes', fn (Extract $e) => $e->take?->bytes),
            Column::text('sum', 'SHA-256', fn (Extract $e) => $e->take?->checksum),
            Column::number('findings', 'Open findings', fn (Extract $e) => $open[$e->id] ?? 0),
        ], $extracts, 100);
    }

    /** @param  iterable<Migration>  $migrations  with counts of their sources and loads */
    public static function migrations(Request $request, iterable $migrations): Table
    {
        return Table::of($request, 'migrations', [
            Column::text('name', 'Migration', fn (Migration $m) => $m->name),
            Column::text('into', 'Into', fn (Migration $m) => $m->target_name),
            Column::number('sources', 'Sources', fn (Migration $m) => (int) $m->getAttribute('sources_count')),
            Column::number('loads', 'Loads', fn (Migration $m) => (int) $m->getAttribute('loads_count')),
            Column::plain('Rounds, the newest first'),
            Column::bare('Plan'),
        ], $migrations);
    }

    /** @param  list<array<string, mixed>>  $files  of VaultFiles::waiting() */
    public static function waiting(Request $request, array $files): Table
    {
        return Table::of($request, 'waiting', [
            Column::text('name', 'File', fn (array $f) => $f['name']),
            Column::text('source', 'For', fn (array $f) => $f['source']),
            Column::number('bytes', 'Bytes', fn (array $f) => $f['bytes']),
            Column::text('since', 'Since', fn (array $f) => When::written($f['since'])),
            Column::bare('What can be done'),
        ], $files);
    }

    /** @param  list<array<string, mixed>>  $files  of VaultFiles::taken() */
    public static function taken(Request $request, array $files): Table
    {
        return Table::of($request, 'taken', [
            Column::text('name', 'File', fn (array $f) => $f['name']),
            Column::text('of', 'Read as', fn (array $f) => $f['of']),
            Column::number('bytes', 'Bytes', fn (array $f) => $f['bytes']),
            Column::text('at', 'Taken', fn (array $f) => When::written($f['at'])),
            Column::bare('What can be done'),
        ], $files);
    }
}
