<?php

namespace App\Http\Controllers;

use App\Models\Load;
use App\Models\Migration;
use App\View\Journeys;
use App\View\Page;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Rows\Outcome;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Illuminate\View\View;

/** The rows behind a number, and the whole journey of one. */
final class RowsController extends Controller
{
    private const PAGE = 50;

    public function index(Request $request, Migration $migration, ?string $entity = null): View
    {
        $this->authorize('view', $migration);
        $page = new Page($migration, 'reconciliation', $entity);
        $loads = $page->loads()->when($request->filled('load'), fn ($l) => $l->where('id', $request->integer('load')));
        $outcome = Outcome::tryFrom((string) $request->query('outcome'));
        [$afterLoad, $afterRow] = array_map(
            intval(...),
            explode(':', (string) $request->query('after', '0:0')) + [0, 0],
        );
        $rows = [];
        // One load after another, so that each query walks one index in order.
        foreach ($loads as $load) {
            if (($load->id < $afterLoad && $afterLoad !== 0) || count($rows) > self::PAGE || $page->round === null) {
                continue;
            }
            $found = DB::table('outcomes')
                ->where('round_id', $page->round->id)
                ->where('load_id', $load->id)
                ->when($load->id === $afterLoad, fn ($q) => $q->where('row_no', '>', $afterRow))
                ->when($outcome !== null, fn ($q) => $q->where('outcome', $outcome?->value))
                ->when($request->filled('cause'), fn ($q) => $q->where('cause_id', $request->integer('cause')))
                ->orderBy('row_no')
                ->limit(self::PAGE + 1 - count($rows))
                ->get(['load_id', 'row_no', 'legacy_key', 'outcome', 'target_key', 'cause_id'])
                ->all();
            $rows = array_merge($rows, $found);
        }
        $more = count($rows) > self::PAGE;
        $rows = array_slice($rows, 0, self::PAGE);
        $last = end($rows);

        return view('rows.index', [
            'page' => $page,
            'rows' => $rows,
            'outcome' => $outcome,
            'loads' => $page->definitions->loads()->keyBy('id'),
            'load' => $request->filled('load') ? $loads->first() : null,
            'next' => $more && $last !== false ? "$last->load_id:$last->row_no" : null,
            'causes' => DB::table('causes')
                ->whereIn('id', array_filter(array_column($rows, 'cause_id')))
                ->get()
                ->keyBy('id'),
        ]);
    }

    public function journey(Request $request, Migration $migration, Load $load, int $row): View
    {
        $this->authorize('view', $migration);
        $page = new Page($migration, 'rejects', $load->entity->name);
        $load = $page->definitions->loads()->firstWhere('id', $load->id) ?? abort(404);
        $journey = (new Journeys($page))->of($load, $row) ?? abort(404);

        return $request->hasHeader('HX-Request')
            ? view('rows.journey', ['page' => $page, 'journey' => $journey])
            : view('rows.page', ['page' => $page, 'journey' => $journey]);
    }

    /** Any legacy or new key. */
    public function trace(Request $request, Migration $migration): View|RedirectResponse
    {
        $this->authorize('view', $migration);
        $page = new Page($migration, 'rejects');
        $q = trim((string) $request->query('q', ''));
        $found = $q === '' ? [] : $this->found($page, $q);
        if (count($found) === 1) {
            return redirect("/m/$migration->id/rows/{$found[0]->load_id}/{$found[0]->row_no}");
        }

        return view('rows.trace', [
            'page' => $page,
            'q' => $q,
            'found' => $found,
            'loads' => $page->definitions->loads()->keyBy('id'),
        ]);
    }

    /** @return list<\stdClass> */
    private function found(Page $page, string $q): array
    {
        if ($page->round === null) {
            return [];
        }
        // "BB CR-1182" and "CR-1182" both find the legacy key.
        $keys = [LegacyKey::typed($q)];
        $sources = $page->definitions->sourceIds();
        if (preg_match('/^(\S+)\s+(.+)$/', $q, $m) === 1 && isset($sources[$m[1]])) {
            $keys[] = LegacyKey::typed($m[2]);
        }
        $base = fn () => DB::table('outcomes')
            ->where('round_id', $page->round->id)
            ->whereIn('entity_id', array_values($page->definitions->entityIds()))
            ->select(['load_id', 'row_no', 'legacy_key', 'outcome', 'target_key'])
            ->limit(100);
        $rows = $base()
            ->whereIn('source_id', array_values($sources))
            ->whereIn('legacy_key', $keys)
            ->get()
            ->concat($base()->where('target_key', $q)->get());

        return array_values($rows->unique(fn ($r) => "$r->load_id:$r->row_no")->all());
    }
}
