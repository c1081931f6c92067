<?php

namespace App\Http\Controllers;

use App\Ledger\Links;
use App\Models\Migration;
use App\Reconciling\CountBook;
use App\Reconciling\Proofs;
use App\View\Page;
use App\View\Tables\ProofTables;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

final class ReconciliationController extends Controller
{
    public function index(Request $request, Migration $migration, ?string $entity = null): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'reconciliation', $entity);
        if ($page->round === null) {
            return view('reconciliation.none', ['page' => $page]);
        }
        $counted = CountBook::of($page->round);
        [$loads, $entities] = $counted?->isDone() ? [$counted->loads, $counted->entities] : self::tallied($page);
        $shown = array_filter($entities, fn ($e) => $page->entity === null || $page->entity->name === $e, ARRAY_FILTER_USE_KEY);
        $tables = new ProofTables($request, $page);

        return $this->screen('reconciliation.index', [
            'page' => $page,
            'counted' => $counted,
            'proofs' => $shown,
            'entities' => $tables->entities($shown),
            'loads' => $tables->loads($loads),
            'outcomes' => ['entities' => ProofTables::shown($shown), 'loads' => ProofTables::shown($loads)],
            'beside' => ['entities' => ProofTables::beside($shown), 'loads' => ProofTables::beside($loads)],
            'links' => $tables->links((new Links($page->round->laneId()))->open(), $counted),
        ]);
    }

    /** Has the round counted once more. */
    public function count(Migration $migration): RedirectResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'reconciliation');
        if ($page->round === null || $page->round->hasEnded() || $page->pass?->isGoing()) {
            return back()->with('refused', 'A round is counted between its passes, until it ends.');
        }
        CountBook::ask($page->round);

        return back();
    }

    /** @return array{array<int, \Baggage\Core\Reconciling\CountProof>, array<string, \Baggage\Core\Reconciling\CountProof>} */
    private static function tallied(Page $page): array
    {
        $loads = $page->tallied();

        return [$loads, $page->round === null ? [] : Proofs::of($page->round)->withTarget($loads, null)];
    }
}
