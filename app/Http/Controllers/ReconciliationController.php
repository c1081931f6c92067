<?php

namespace App\Http\Controllers;

use App\Models\Migration;
use App\Reconciling\Proofs;
use App\View\Page;
use Illuminate\Support\Facades\DB;
use Illuminate\View\View;

final class ReconciliationController extends Controller
{
    public function index(Migration $migration, ?string $entity = null): View
    {
        $this->authorize('view', $migration);
        $page = new Page($migration, 'reconciliation', $entity);
        $proofs = $page->round === null ? null : new Proofs($page->round);
        $links = $page->round === null
            ? []
            : DB::select(
                "SELECT load_id, field, SUM(state = 'made') AS made, SUM(state = 'waiting') AS waiting "
                    .'FROM links WHERE round_id = ? GROUP BY load_id, field',
                [$page->round->id],
            );

        return view('reconciliation.index', [
            'page' => $page,
            'proofs' => $proofs,
            'entities' => $proofs?->entities() ?? [],
            'loads' => $proofs?->loads() ?? [],
            'links' => $links,
        ]);
    }
}
