<?php

namespace App\Http\Controllers;

use App\Http\Requests\TotalForm;
use App\Mapping\RuleSheet;
use App\Models\ControlTotal;
use App\Models\Migration;
use App\Models\ReckoningKind;
use App\Models\Work;
use App\Reckoning\Asking;
use App\Reckoning\ControlTotals;
use App\Reckoning\Differences;
use App\Reckoning\GroupRows;
use App\Reckoning\Reckonings;
use App\Reckoning\TotalLine;
use App\Reckoning\TotalSuggestions;
use App\View\Page;
use App\View\Tables\TotalTables;
use App\View\TotalTrial;
use Baggage\Core\Reconciling\ControlTotal as Described;
use Baggage\Core\Reconciling\GroupBy;
use Baggage\Core\Reconciling\Part;
use Baggage\Core\Reconciling\TotalKind;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Collection;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** Control totals: what they come to on both sides, what they are split into, and how they are stated. */
final class TotalsController extends Controller
{
    /** Groups, and rows, on a page. */
    private const PAGE = 50;

    public function index(Request $request, Migration $migration, ?string $entity = null): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'reconciliation', $entity);
        $reckoning = $page->round === null ? null : Reckonings::newest($page->round, ReckoningKind::Totals);
        $lines = $reckoning === null ? [] : TotalLine::of($reckoning);
        $shown = array_filter($lines, fn (TotalLine $l) => $page->entity === null || $page->entity->name === $l->total->entity);

        return $this->screen('totals.index', [
            'page' => $page,
            'reckoning' => $reckoning,
            'lines' => $shown,
            // What differs is looked at first.
            'table' => (new TotalTables($request))->counted(
                collect($shown)->sortBy(fn (TotalLine $l) => $l->holds() ? 1 : 0)->values()->all(),
            ),
            'stated' => self::ofEntity($migration, $page),
            'works' => Work::toShow($migration),
        ]);
    }

    /** One total: its parts, its groups and the rows that make a difference, the largest first. */
    public function show(Request $request, Migration $migration, int $number): View
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'reconciliation');
        $reckoning = $page->round === null ? null : Reckonings::newest($page->round, ReckoningKind::Totals);
        $line = collect($reckoning === null ? [] : TotalLine::of($reckoning))->firstWhere('number', $number) ?? abort(404);
        $found = new Differences($reckoning ?? abort(404));
        $group = is_string($request->query('group')) ? $request->query('group') : null;
        $figures = $group === null ? $line->figures : $found->group($number, $group) ?? abort(404);
        $begins = is_string($request->query('begins')) ? mb_substr($request->query('begins'), 0, Described::GROUP) : '';
        $groups = $group === null ? $found->groups($number, self::place($request, 'groups'), self::PAGE + 1, begins: $begins) : [];
        $after = self::place($request, 'rows');
        $rows = $found->rows($number, $group, $after === null ? null : [$after[0], (int) $after[1]], self::PAGE + 1);
        $members = $group === null ? null : new GroupRows($reckoning, $line, $group);
        $part = is_string($request->query('part')) ? Part::tryFrom($request->query('part')) : null;
        $listed = $members?->listed($part, $request->integer('listed-after'), self::PAGE + 1) ?? [];

        return view('totals.show', [
            'page' => Page::of($migration, 'reconciliation', $line->total->entity),
            'reckoning' => $reckoning,
            'line' => $line,
            'group' => $group,
            'figures' => $figures,
            'begins' => $begins,
            'groups' => array_slice($groups, 0, self::PAGE),
            'moreGroups' => count($groups) > self::PAGE ? $groups[self::PAGE - 1] : null,
            'works' => Work::toShow($migration),
            'groupCount' => $found->groupCount($number),
            'part' => $part,
            'isListed' => $listed !== [] || $members?->isListed(),
            'listed' => array_slice($listed, 0, self::PAGE),
            'moreListed' => count($listed) > self::PAGE ? $listed[self::PAGE - 1]->number : null,
            'rows' => array_slice($rows, 0, self::PAGE),
            'moreRows' => count($rows) > self::PAGE ? $rows[self::PAGE - 1] : null,
        ]);
    }

    /** Has a worker list the rows of a group. */
    public function list(Request $request, Migration $migration, int $number): RedirectResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'reconciliation');
        $reckoning = $page->round === null ? null : Reckonings::newest($page->round, ReckoningKind::Totals);
        $line = collect($reckoning === null ? [] : TotalLine::of($reckoning))->firstWhere('number', $number);
        $reckoning === null || $line === null ? abort(404) : null;
        $group = (string) $request->validate(['group' => 'present|nullable|string|max:190'])['group'];
        if ((new Differences($reckoning))->group($number, $group) === null) {
            return back()->with('refused', 'It was counted again meanwhile: there is no such group any more.');
        }
        $rows = array_sum(array_map(fn ($p) => $p->feedRows, $page->tallied()));
        try {
            Asking::group($migration, $reckoning, $number, $group, (int) $rows);
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }

        return back();
    }

    /** @return array{float, string}|null weight and name of the last of the page before */
    private static function place(Request $request, string $of): ?array
    {
        $weight = $request->query("$of-weight");

        return is_numeric($weight) ? [(float) $weight, (string) $request->query("$of-after")] : null;
    }

    /** The sheet of them as they are stated. */
    public function stated(Request $request, Migration $migration, ?string $entity = null): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'reconciliation', $entity);
        $tables = new TotalTables($request);

        return $this->screen('totals.stated', [
            'page' => $page,
            'totals' => $tables->stated(self::ofEntity($migration, $page)),
            'suggested' => $tables->suggested((new TotalSuggestions($page->definitions))->of($page->entity?->name)),
        ]);
    }

    /** @return Collection<int, ControlTotal> */
    private static function ofEntity(Migration $migration, Page $page): Collection
    {
        $entity = $page->entity;

        return ControlTotals::of($migration)->filter(fn (ControlTotal $t) => $entity === null || $entity->id === $t->entity_id);
    }

    public function create(Request $request, Migration $migration): View
    {
        $this->authorize('work', $migration);

        $entity = $request->query('entity');
        $entity = is_string($entity) && $entity !== '' ? $entity : $migration->loads()->orderBy('position')->first()?->entity->name;

        return $this->form($migration, null, new Described('', (string) $entity, null, TotalKind::Sum, '', ''));
    }

    public function edit(Migration $migration, ControlTotal $total): View
    {
        $this->authorize('work', $migration);

        return $this->form($migration, $total, $total->described());
    }

    private function form(Migration $migration, ?ControlTotal $kept, Described $total): View
    {
        $loads = $migration->loads()->with(['entity', 'extract.source', 'extract.take'])->orderBy('position')->get();
        $page = Page::of($migration, 'reconciliation', $total->entity !== '' ? $total->entity : null);
        $own = $loads->filter(fn ($l) => $l->entity->name === $page->entity?->name)->values();
        $described = $own->first()?->entity->described();
        $refers = $total->groupField === null ? null : $described?->fields[$total->groupField]->refers ?? null;
        $parents = $loads->filter(fn ($l) => $refers !== null && $l->entity->name === $refers)->values();

        return view('totals.form', [
            'page' => $page,
            'kept' => $kept,
            'total' => $total,
            'loads' => $own,
            'parents' => $parents,
            'entities' => $loads->map(fn ($l) => $l->entity->name)->unique()->values()->all(),
            'fields' => array_keys($described->fields ?? []),
            'references' => array_keys($described?->references() ?? []),
            'parentFields' => $parents->isEmpty() ? [] : array_keys($parents->first()->entity->described()->fields),
            'kinds' => TotalKind::cases(),
            'groups' => GroupBy::cases(),
            'words' => self::words($own->concat($parents)),
            'trial' => (new TotalTrial($page))->of($total, $kept?->id),
        ]);
    }

    /**
     * @param  Collection<int, \App\Models\Load>  $loads
     * @return list<array{string, string}>
     */
    private static function words(Collection $loads): array
    {
        return array_values($loads->flatMap(fn ($l) => RuleSheet::words($l))->unique(fn (array $w) => $w[0])->all());
    }

    /** What it comes to on a few rows, while it is typed. */
    public function try(TotalForm $request, Migration $migration): View
    {
        $page = Page::of($migration, 'reconciliation', (string) $request->input('entity'));

        $trial = (new TotalTrial($page))->of($request->total(), $request->integer('kept') ?: null);

        return view('totals.trial', ['page' => $page, 'trial' => $trial]);
    }

    public function store(TotalForm $request, Migration $migration): RedirectResponse
    {
        return $this->keep($request, $migration, null);
    }

    public function update(TotalForm $request, Migration $migration, ControlTotal $total): RedirectResponse
    {
        return $this->keep($request, $migration, $total);
    }

    private function keep(TotalForm $request, Migration $migration, ?ControlTotal $kept): RedirectResponse
    {
        $total = $request->total();
        try {
            ControlTotals::keep($migration, $kept?->id, $request->integer('version'), $total, $request->user());
        } catch (\DomainException $e) {
            return back()->withInput()->with('refused', "Nothing was kept: {$e->getMessage()}");
        }

        return redirect("/m/$migration->id/totals-stated/$total->entity")
            ->with('told', "$total->name is kept. Count the totals to see what it comes to.");
    }

    public function destroy(Migration $migration, ControlTotal $total): RedirectResponse
    {
        $this->authorize('work', $migration);
        ControlTotals::remove($migration, $total);

        return redirect("/m/$migration->id/totals-stated")->with('told', "$total->name is removed. What was counted of it before stays.");
    }
}
