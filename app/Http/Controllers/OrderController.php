<?php

namespace App\Http\Controllers;

use App\Models\Migration;
use App\View\OrderChart;
use App\View\Page;
use App\View\Tables\OrderTables;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

final class OrderController extends Controller
{
    public function index(Request $request, Migration $migration, ?string $entity = null): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'order', $entity);

        $order = $page->orderError() === null ? $page->definitions->order() : null;
        $chart = $order === null ? null : OrderChart::of($order, $page->all()->values());

        return $this->screen('order.index', [
            'page' => $page,
            'chart' => $chart,
            'order' => $order,
            'loads' => $order === null ? null : OrderTables::loads($request, $page->loads(), $order),
        ]);
    }
}
