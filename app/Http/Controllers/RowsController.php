<?php

namespace App\Http\Controllers;

use App\Ledger\CauseReader;
use App\Ledger\LedgerReader;
use App\Ledger\RowFilter;
use App\Ledger\RowList;
use App\Ledger\Spaces;
use App\Ledger\WaiverBook;
use App\Models\Load;
use App\Models\Migration;
use App\Models\ReckoningKind;
use App\Models\Round;
use App\Models\Waiver;
use App\Models\Work;
use App\Models\WorkKind;
use App\Overview\ListedLoad;
use App\Reckoning\Reckonings;
use App\Reconciling\CountBook;
use App\Rejects\RowsFile;
use App\View\ComparedPage;
use App\View\Family;
use App\View\Journeys;
use App\View\LastTraced;
use App\View\Page;
use App\View\Tables\RowTables;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Rows\Outcome;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** The rows behind a number, and the whole journey of one. */
final class RowsController extends Controller
{
    private const PAGE = 50;

    public function index(Request $request, Migration $migration, ?string $entity = null): View
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'reconciliation', $entity);
        $filter = RowFilter::of($request->query());
        $load = $page->all()->get($request->integer('load'));
        $after = preg_match('/^(\d{1,9}):(\d{1,10})$/', (string) $request->query('after'), $m) === 1 ? [(int) $m[1], (int) $m[2]] : null;
        if ($load !== null && $request->integer('from') > 1) {
            $after ??= [$load->id, $request->integer('from') - 1];
        }
        $rows = $page->round === null
            ? []
            : (new RowList($page->round->laneId()))->page($this->loads($page, $load, $filter), $filter, $after, self::PAGE + 1);
        $more = count($rows) > self::PAGE;
        $rows = array_slice($rows, 0, self::PAGE);
        $last = end($rows);

        return view('rows.index', [
            'page' => $page,
            'rows' => $rows,
            'filter' => $filter,
            'works' => Work::toShow($migration),
            'waivers' => $page->round === null ? [] : $this->waivers($page->round, $rows),
            'load' => $load,
            'next' => $more && $last !== false ? "$last->load_id:$last->row_no" : null,
            'causes' => $page->round === null ? [] : (new CauseReader($page->round->laneId()))->byId(array_column($rows, 'cause_id')),
        ]);
    }

    /** Two rows beside each other: one and the other that is in its way. */
    public function beside(Migration $migration, Load $load, int $row, int $other, int $otherRow): View
    {
        $this->authorize('view', $migration);
        $of = $migration->loads()->findOrFail($other);
        $page = Page::ofLoad($migration, 'rejects', $migration->loads()->findOrFail($load->id));
        $journeys = new Journeys($page);
        [$a, $b] = [$journeys->of($load, $row) ?? abort(404), $journeys->of($of, $otherRow) ?? abort(404)];
        $cells = fn (array $j) => array_combine(
            array_map(fn ($c) => $c->header, $j['columns']->all),
            array_map(fn (int $i) => $j['cells'][$i] ?? null, array_keys($j['columns']->all)),
        );
        $beside = function (array $left, array $right): array {
            $lines = [];
            foreach (array_keys($left + $right) as $name) {
                $lines[$name] = [$left[$name] ?? null, $right[$name] ?? null];
            }

            return $lines;
        };

        return view('rows.beside', ['page' => $page, 'a' => $a, 'b' => $b, 'parts' => [
            'As read' => $beside($cells($a), $cells($b)),
            'What the rules make of them' => $beside(
                array_map(fn (array $f) => $f['value'], $a['fields']),
                array_map(fn (array $f) => $f['value'], $b['fields']),
            ),
        ]]);
    }

    /** All the rows of a number as a file, made by a worker. */
    public function file(Request $request, Migration $migration, ?string $entity = null): RedirectResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'reconciliation', $entity);
        $round = $page->round ?? abort(404);
        $filter = RowFilter::of($request->query());
        $load = $page->all()->get($request->integer('load'));
        $work = Work::ask($migration, WorkKind::Rows, 'the rows as .csv', [
            'round' => $round->id,
            'loads' => $this->loads($page, $load, $filter),
            'filter' => $request->only(['outcome', 'cause', 'alike', 'which', 'waits', 'open', 'made', 'root', 'older', 'standing']),
        ], 0);
        RowsFile::dispatch($work->id);

        return back();
    }

    /** @return list<int> loads whose rows are listed, in their order: those of the entity, without any that has no such row */
    private function loads(Page $page, ?ListedLoad $load, RowFilter $filter): array
    {
        $loads = $load === null ? $page->loads() : collect([$load]);

        return array_values($loads
            ->filter(fn (ListedLoad $l) => $filter->outcome === null || $page->proof($l)->count($filter->outcome) > 0)
            ->pluck('id')
            ->all());
    }

    /** Rows no outcome was found for, and records of the target that fit no row, as they were counted last. */
    public function gaps(Request $request, Migration $migration, ?string $entity = null): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'reconciliation', $entity);
        $counted = $page->round === null ? null : CountBook::of($page->round);
        $tables = new RowTables($request, $page);
        $gaps = array_intersect_key($counted->gaps ?? [], $page->loads()->pluck('id', 'entity')->all());

        return $this->screen('rows.gaps', [
            'page' => $page,
            'counted' => $counted,
            'lost' => $tables->lost(array_intersect_key($counted->lost ?? [], $page->loads()->keyBy('id')->all())),
            'gone' => $tables->gone($gaps),
            'foreign' => $tables->foreign($gaps),
            'before' => array_map(fn (array $g) => $g['before'], $gaps),
            'compared' => self::compared($page),
        ]);
    }

    /** What the last comparison found of records that are not there, or that somebody changed. */
    private static function compared(Page $page): ?ComparedPage
    {
        $reckoning = $page->round === null ? null : Reckonings::newest($page->round, ReckoningKind::Comparison);

        return $reckoning === null ? null : ComparedPage::of($reckoning, $page->entity?->name);
    }

    /**
     * @param  list<\stdClass>  $rows
     * @return array<string, Waiver> load and cause → why and by whom its rows were left behind
     */
    private function waivers(Round $round, array $rows): array
    {
        $left = array_filter($rows, fn ($r) => $r->outcome === Outcome::Waived->value);
        $causes = (new CauseReader($round->laneId()))->byId(array_column($left, 'cause_id'));
        $waivers = WaiverBook::newest($round, array_map(fn ($c) => [(int) $c->load_id, $c->waive_hash], array_values($causes)));

        return array_filter(collect($causes)
            ->mapWithKeys(fn ($c) => ["$c->load_id $c->id" => $waivers["$c->load_id $c->waive_hash"] ?? null])
            ->all());
    }

    public function journey(Request $request, Migration $migration, Load $load, int $row): View
    {
        $this->authorize('view', $migration);
        $page = Page::ofLoad($migration, 'rejects', $load);
        $journey = (new Journeys($page))->of($load, $row) ?? abort(404);
        LastTraced::add($page, $load->id, $row, $journey['current']);

        return $request->hasHeader('HX-Request')
            ? view('rows.journey', ['page' => $page, 'journey' => $journey])
            : view('rows.page', ['page' => $page, 'journey' => $journey]);
    }

    /** The record as it was sent and as it is, with those it hangs on and who hang on it: the page does not wait for the target. */
    public function family(Migration $migration, Load $load, int $row): View
    {
        $this->authorize('view', $migration);
        $page = Page::ofLoad($migration, 'rejects', $load);

        return view('rows.family', Family::on($page)->of($load, $row) + ['page' => $page, 'most' => Family::SHOWN]);
    }

    /** Any legacy or new key. */
    public function trace(Request $request, Migration $migration): View|RedirectResponse|StreamedResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'rejects');
        $q = trim((string) $request->query('q', ''));
        $found = $q === '' ? [] : $this->found($page, $q);
        if (count($found) === 1) {
            return redirect("/m/$migration->id/rows/{$found[0]->load_id}/{$found[0]->row_no}");
        }

        return $this->screen('rows.trace', [
            'page' => $page,
            'q' => $q,
            'found' => $found,
            'table' => (new RowTables($request, $page))->found($found),
            'last' => $q === '' ? LastTraced::of($migration) : [],
            'loads' => $page->all(),
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
