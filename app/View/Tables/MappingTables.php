<?php

namespace App\View\Tables;

use App\Models\Change;
use App\Models\ChangeList;
use App\Models\CodeVersion;
use App\Models\Extract;
use App\Models\RuleVersion;
use App\Overview\ListedLoad;
use App\Support\When;
use App\View\Say;
use Illuminate\Http\Request;

/** Tables of Mapping, and of changes to what it says. */
final class MappingTables
{
    /** @param  iterable<ListedLoad>  $loads */
    public static function loads(Request $request, iterable $loads): Table
    {
        return Table::of($request, 'loads', [
            Column::text('load', 'Load', fn (ListedLoad $l) => $l->name),
            Column::text('into', 'Into', fn (ListedLoad $l) => Say::label($l->entity)),
            Column::text('reads', 'Reads', fn (ListedLoad $l) => "$l->source $l->extract"),
            Column::number('rows', 'Rows', fn (ListedLoad $l) => $l->rows),
            Column::number('ruled', 'Fields with a rule', fn (ListedLoad $l) => $l->ruled),
            Column::number('empty', 'Left empty', fn (ListedLoad $l) => $l->empty),
            Column::number('open', 'Without a decision', fn (ListedLoad $l) => $l->fields - $l->ruled - $l->empty),
            Column::number('undecided', 'Columns undecided', fn (ListedLoad $l) => $l->undecided),
            Column::text('policy', 'Policy', fn (ListedLoad $l) => $l->policy),
        ], $loads, 100);
    }

    /** @param  list<Extract>  $extracts  that no load reads */
    public static function unread(Request $request, array $extracts): Table
    {
        return Table::of($request, 'unread', [
            Column::text('extract', 'Extract', fn (Extract $e) => "{$e->source?->code} $e->name"),
            Column::number('rows', 'Rows', fn (Extract $e) => $e->take?->rows),
            Column::number('columns', 'Columns', fn (Extract $e) => count($e->columns ?? [])),
            Column::text('decision', 'Decision', fn (Extract $e) => $e->not_loaded),
        ], $extracts);
    }

    /** @param  iterable<RuleVersion>  $versions  the newest first */
    public static function rules(Request $request, iterable $versions): Table
    {
        return Table::of($request, 'versions', [
            Column::text('at', 'When', fn (RuleVersion $v) => When::written($v->at)),
            Column::text('who', 'Who', fn (RuleVersion $v) => $v->user->name ?? 'plan file'),
            Column::text('field', 'Field', fn (RuleVersion $v) => $v->field),
            Column::text('said', 'It said then', fn (RuleVersion $v) => $v->says()),
            Column::text('note', 'Note', fn (RuleVersion $v) => $v->note),
            Column::bare('Go back'),
        ], $versions);
    }

    /** @param  iterable<CodeVersion>  $versions  the newest first */
    public static function codes(Request $request, iterable $versions): Table
    {
        return Table::of($request, 'versions', [
            Column::text('at', 'When', fn (CodeVersion $v) => When::written($v->at)),
            Column::text('who', 'Who', fn (CodeVersion $v) => $v->user->name ?? 'plan file'),
            Column::text('old', 'Old value', fn (CodeVersion $v) => $v->old_value),
            Column::text('said', 'It became then', fn (CodeVersion $v) => $v->says()),
            Column::bare('Go back'),
        ], $versions);
    }

    /** All on one page: what is not there to be ticked is not accepted. */
    public static function changes(Request $request, ChangeList $list): Table
    {
        $rows = array_map(fn (Change $c, int $n) => [$n, $c], $list->changes, array_keys($list->changes));

        return Table::of($request, 'changes', [
            Column::text('where', 'Where', fn (array $r) => $r[1]->where),
            Column::text('part', 'Part', fn (array $r) => $r[1]->part),
            Column::text('is', 'It is', fn (array $r) => $r[1]->from),
            Column::text('would', 'It would be', fn (array $r) => $r[1]->to),
            Column::text('state', 'State', fn (array $r) => $r[1]->state->label()),
        ], $rows, PHP_INT_MAX);
    }

    public static function described(Request $request, ChangeList $list): Table
    {
        return Table::of($request, 'changes', [
            Column::text('where', 'Where', fn (Change $c) => $c->where),
            Column::text('part', 'What', fn (Change $c) => $c->part),
            Column::text('is', 'It is', fn (Change $c) => $c->from),
            Column::text('would', 'It would be', fn (Change $c) => $c->to),
            Column::text('rules', 'Rules it touches', fn (Change $c) => implode('; ', $c->data['rules'] ?? [])),
        ], $list->changes, 200);
    }

    /** @param  list<array{header: string, name: string, field: string|null}>  $meets */
    public static function headers(Request $request, array $meets): Table
    {
        return Table::of($request, 'headers', [
            Column::text('header', 'Header', fn (array $x) => $x['header']),
            Column::text('name', 'Written so', fn (array $x) => $x['name']),
            Column::text('field', 'Field', fn (array $x) => $x['field']),
        ], $meets, 200);
    }
}
