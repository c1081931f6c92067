<?php

namespace App\Http\Controllers;

use App\Models\Migration;
use App\View\OrderChart;
use App\View\Page;
use Illuminate\View\View;

final class OrderController extends Controller
{
    public function index(Migration $migration, ?string $entity = null): View
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'order', $entity);

        return view('order.index', [
            'page' => $page,
            'chart' => $page->orderError() === null ? OrderChart::of($page->definitions) : null,
        ]);
    }
}
