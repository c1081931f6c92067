<?php

namespace App\View\Tables;

use App\Models\ColumnReference;
use App\Models\Extract;
use App\Models\Finding;
use App\Models\Take;
use App\Profiling\TakeChanges;
use App\Support\When;
use App\View\Say;
use Baggage\Core\Reading\Column as LegacyColumn;
use Illuminate\Http\Request;

/** Tables of one extract. */
final class ExtractTables
{
    public static function columns(Request $request, Extract $extract, Take $take): Table
    {
        $facts = $take->facts() ?? [];
        $of = fn (LegacyColumn $c, string $fact) => $facts[$c->position][$fact] ?? null;

        return Table::of($request, 'columns', [
            Column::text('header', 'Column', fn (LegacyColumn $c) => $c->header),
            Column::text('name', 'Name in rules', fn (LegacyColumn $c) => $c->name),
            Column::text('type', 'Seems to be', fn (LegacyColumn $c) => $facts[$c->position]['type']['label'] ?? null),
            Column::number('breaking', 'Do not fit', fn (LegacyColumn $c) => $facts[$c->position]['type']['breaking'] ?? null),
            Column::number('filled', 'Filled', fn (LegacyColumn $c) => $of($c, 'filled')),
            Column::number('blank', 'Blank', fn (LegacyColumn $c) => $of($c, 'blank') + $of($c, 'missing')),
            Column::number('distinct', 'Different', fn (LegacyColumn $c) => $of($c, 'distinct')),
            Column::plain('How they lie'),
            Column::number('length', 'Length', fn (LegacyColumn $c) => $of($c, 'longest')),
            Column::text('smallest', 'Smallest', fn (LegacyColumn $c) => $of($c, 'smallest')),
            Column::text('largest', 'Largest', fn (LegacyColumn $c) => $of($c, 'largest')),
            Column::text('build', 'Usual build', fn (LegacyColumn $c) => self::build($of($c, 'shapes'))),
        ], $extract->tidyColumns()->all, 100);
    }

    /** @param  array<string, int>|null  $shapes */
    private static function build(?array $shapes): ?string
    {
        $usual = array_key_first($shapes ?? []);

        return $usual === null ? null : (new Say)->shape((string) $usual);
    }

    /** @param  iterable<Finding>  $findings */
    public static function findings(Request $request, iterable $findings): Table
    {
        return Table::of($request, 'findings', [
            Column::text('finding', 'What was found', fn (Finding $f) => $f->message),
            Column::number('rows', 'Rows', fn (Finding $f) => $f->n),
            Column::text('decision', 'Decision', fn (Finding $f) => trim($f->decision->label()." $f->note")),
        ], $findings);
    }

    /** @param  iterable<Take>  $takes */
    public static function takes(Request $request, iterable $takes): Table
    {
        return Table::of($request, 'takes', [
            Column::number('take', 'Take', fn (Take $t) => $t->number),
            Column::text('from', 'From', fn (Take $t) => $t->file_name),
            Column::text('taken', 'Taken', fn (Take $t) => When::written($t->taken_at)),
            Column::text('state', 'State', fn (Take $t) => $t->state->value),
            Column::number('rows', 'Rows', fn (Take $t) => $t->rows),
            Column::number('stated', 'The client states', fn (Take $t) => $t->stated_rows),
            ...array_map(
                fn (string $kind) => Column::number($kind, ucfirst($kind), fn (Take $t) => $t->compared[$kind] ?? null),
                TakeChanges::KINDS,
            ),
            Column::plain('Columns'),
            Column::plain('Parameters'),
        ], $takes);
    }

    /** @param  iterable<\stdClass>  $values  value and n */
    public static function values(Request $request, iterable $values): Table
    {
        return Table::of($request, 'values', [
            Column::text('value', 'Value', fn ($v) => $v->value),
            Column::number('rows', 'Rows', fn ($v) => (int) $v->n),
        ], $values, 100);
    }

    /** @param  iterable<ColumnReference>  $references */
    public static function references(Request $request, iterable $references): Table
    {
        return Table::of($request, 'references', [
            Column::text('columns', 'Columns', fn (ColumnReference $r) => self::side($r->extract, $r->columns)),
            Column::text('parent', 'name rows of', fn (ColumnReference $r) => self::side($r->parent, $r->parent_columns)),
            Column::number('found', 'Values found', fn (ColumnReference $r) => $r->values_found),
            Column::number('orphans', 'Orphan rows', fn (ColumnReference $r) => $r->orphan_rows),
            Column::text('decision', 'Decision', fn (ColumnReference $r) => $r->decision->value),
        ], $references);
    }

    /** @param  list<string>  $columns */
    private static function side(Extract $extract, array $columns): string
    {
        return "{$extract->source?->code} $extract->name ".implode(' + ', $columns);
    }

    /** @param  list<array{name: string, view: bool}>  $tables  of a database */
    public static function tables(Request $request, array $tables): Table
    {
        return Table::of($request, 'tables', [
            Column::bare('Take'),
            Column::text('name', 'Table or view', fn (array $t) => $t['name']),
            Column::text('kind', 'Kind', fn (array $t) => $t['view'] ? 'view' : 'table'),
            Column::bare('Preview'),
        ], $tables, 200);
    }
}
