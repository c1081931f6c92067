<?php

namespace App\View\Tables;

use App\View\DryRunFound;
use Illuminate\Http\Request;

/** Tables of what a dry run found. */
final readonly class DryRunTables
{
    /** What is counted of each load of a delta, and what its number opens. */
    public const OF_LOADS = [
        'added' => 'added', 'gone' => 'gone', 'to_map' => null, 'untouched' => null, 'records_made' => null, 'records_changed' => 'changed',
        'would_remove' => null,
    ];

    public function __construct(private Request $request)
    {
    }

    public function moves(DryRunFound $found): Table
    {
        return Table::of($this->request, 'moves', [
            Column::text('load', 'Load', fn (array $m) => $m['name']),
            Column::text('was', 'Is now', fn (array $m) => (string) $m['was']),
            Column::text('outcome', 'Would be', fn (array $m) => $m['outcome']),
            Column::number('rows', 'Rows', fn (array $m) => $m['n']),
        ], $found->moves);
    }

    /** @param  list<array<string, mixed>>  $loads  what a delta would find and send */
    public function loads(array $loads): Table
    {
        $n = fn (string $title, string $what) => Column::number($what, $title, fn (array $l) => (int) ($l[$what] ?? 0));
        $fields = fn (array $l) => implode(', ', array_map(
            fn (string $field, int $n) => "$field ".number_format($n), array_map(strval(...), array_keys($l['fields'])), $l['fields'],
        ));

        return Table::of($this->request, 'loads', [
            Column::text('load', 'Load', fn (array $l) => (string) $l['load']),
            $n('Rows that came', 'added'), $n('Delivered no more', 'gone'), $n('Looked at anew', 'to_map'), $n('Not touched', 'untouched'),
            $n('Records made', 'records_made'), $n('Changed', 'records_changed'), $n('Removed', 'would_remove'),
            Column::text('fields', 'Fields that change', $fields),
        ], $loads);
    }

    public function causes(DryRunFound $found): Table
    {
        return Table::of($this->request, 'why', [
            Column::text('cause', 'Cause', fn (array $c) => $c['title']),
            Column::text('load', 'Load', fn (array $c) => $c['name']),
            Column::text('field', 'Field and value', fn (array $c) => $c['field']),
            Column::number('rows', 'Rows', fn (array $c) => $c['n']),
        ], $found->causes);
    }
}
