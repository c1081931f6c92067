<?php

namespace App\View\Tables;

use App\View\DryRunFound;
use Illuminate\Http\Request;

/** Tables of what a dry run found. */
final readonly class DryRunTables
{
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
