<?php

namespace App\Http\Controllers;

use App\Ledger\Links;
use App\Models\Migration;
use App\Reconciling\Proofs;
use App\View\Page;
use Illuminate\View\View;

final class ReconciliationController extends Controller
{
    public function index(Migration $migration, ?string $entity = null): View
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'reconciliation', $entity);
        $proofs = $page->round === null ? null : Proofs::of($page->round);
        $links = $page->round === null ? [] : (new Links($page->round->laneId()))->counts();

        return view('reconciliation.index', [
            'page' => $page,
            'proofs' => $proofs,
            'entities' => $proofs?->entities() ?? [],
            'loads' => $proofs?->loads() ?? [],
            'links' => $links,
        ]);
    }
}
