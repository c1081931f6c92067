<?php

namespace App\View\Tables;

use App\Overview\ListedLoad;
use App\View\Say;
use Baggage\Core\Ordering\LoadOrder;
use Illuminate\Http\Request;

/** Tables of Order. */
final class OrderTables
{
    /** @param  iterable<ListedLoad>  $loads */
    public static function loads(Request $request, iterable $loads, LoadOrder $order): Table
    {
        return Table::of($request, 'loads', [
            Column::number('wave', 'Wave', fn (ListedLoad $l) => $order->waves[$l->entity]),
            Column::text('load', 'Load', fn (ListedLoad $l) => $l->name),
            Column::text('into', 'Into', fn (ListedLoad $l) => Say::label($l->entity)),
            Column::text('reads', 'Reads', fn (ListedLoad $l) => "$l->source $l->extract"),
            Column::number('rows', 'Rows', fn (ListedLoad $l) => $l->rows),
            Column::text('after', 'After', fn (ListedLoad $l) => implode(', ', array_map(Say::label(...), $order->parentsOf($l->entity)))),
            Column::text('later', 'Set later', fn (ListedLoad $l) => implode(', ', $order->deferredFields($l->entity))),
        ], $loads, 100);
    }
}
