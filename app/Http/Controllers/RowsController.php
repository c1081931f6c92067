<?php

namespace App\Http\Controllers;

use App\Ledger\CauseReader;
use App\Ledger\LedgerReader;
use App\Ledger\Spaces;
use App\Ledger\WaiverBook;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Round;
use App\Models\Waiver;
use App\View\Journeys;
use App\View\Page;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Rows\Outcome;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\View\View;

/** The rows behind a number, and the whole journey of one. */
final class RowsController extends Controller
{
    private const PAGE = 50;

    public function index(Request $request, Migration $migration, ?string $entity = null): View
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'reconciliation', $entity);
        $loads = $page->loads()->when($request->filled('load'), fn ($l) => $l->where('id', $request->integer('load')));
        $outcome = Outcome::tryFrom((string) $request->query('outcome'));
        [$afterLoad, $afterRow] = array_map(
            intval(...),
            explode(':', (string) $request->query('after', '0:0')) + [0, 0],
        );
        $rows = [];
        $ledger = $page->round === null ? null : new LedgerReader($page->round);
        $cause = $request->filled('cause') ? $request->integer('cause') : null;
        $waits = $request->filled('waits') ? (string) $request->query('waits') : null;
        // One load after another, so that each query walks one index in order.
        foreach ($ledger === null ? [] : $loads as $load) {
            if (($load->id < $afterLoad && $afterLoad !== 0) || count($rows) > self::PAGE) {
                continue;
            }
            $after = $load->id === $afterLoad ? $afterRow : 0;
            $rows = array_merge($rows, $ledger->lines($load, $after, $outcome, $cause, self::PAGE + 1 - count($rows), $waits));
        }
        $more = count($rows) > self::PAGE;
        $rows = array_slice($rows, 0, self::PAGE);
        $last = end($rows);

        return view('rows.index', [
            'page' => $page,
            'rows' => $rows,
            'outcome' => $outcome,
            'waits' => $waits,
            'waivers' => $page->round === null ? [] : $this->waivers($page->round, $rows),
            'loads' => $page->definitions->loads()->keyBy('id'),
            'load' => $request->filled('load') ? $loads->first() : null,
            'next' => $more && $last !== false ? "$last->load_id:$last->row_no" : null,
            'causes' => $page->round === null ? [] : (new CauseReader($page->round->laneId()))->byId(array_column($rows, 'cause_id')),
        ]);
    }

    /**
     * @param  list<\stdClass>  $rows
     * @return array<string, Waiver> load and cause → why and by whom its rows were left behind
     */
    private function waivers(Round $round, array $rows): array
    {
        $left = array_filter($rows, fn ($r) => $r->outcome === Outcome::Waived->value);
        $causes = (new CauseReader($round->laneId()))->byId(array_column($left, 'cause_id'));
        $found = [];
        foreach ($causes as $cause) {
            $waiver = WaiverBook::newest($round, (int) $cause->load_id, [$cause->waive_hash])[$cause->waive_hash] ?? null;
            if ($waiver !== null) {
                $found["$cause->load_id $cause->id"] = $waiver;
            }
        }

        return $found;
    }

    public function journey(Request $request, Migration $migration, Load $load, int $row): View
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'rejects', $load->entity->name);
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
        $page = Page::of($migration, 'rejects');
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
        $spaces = Spaces::of($page->migration);
        if (preg_match('/^(\S+)\s+(.+)$/', $q, $m) === 1 && $spaces->among(null, [$m[1]]) !== []) {
            $keys[] = LegacyKey::typed($m[2]);
        }
        $spaces = $spaces->all();

        return (new LedgerReader($page->round))->withKey($spaces, $spaces, $keys, $q, 100);
    }
}
