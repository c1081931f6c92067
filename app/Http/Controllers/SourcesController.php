<?php

namespace App\Http\Controllers;

use App\Models\Audit;
use App\Models\Connection;
use App\Models\Extract;
use App\Models\Finding;
use App\Models\Migration;
use App\Models\Source;
use App\Models\Take;
use App\Models\TakeState;
use App\View\Page;
use App\View\Tables\SourceTables;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Symfony\Component\HttpFoundation\StreamedResponse;

final class SourcesController extends Controller
{
    public function index(Request $request, Migration $migration, ?string $entity = null): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'sources', $entity);
        // What is going on is asked first: a take that ends meanwhile is on the page, or the page asks again.
        $latest = Take::newestOf($migration->extracts()->pluck('extracts.id')->all());
        $only = $page->entity === null ? null : $page->loads()->pluck('extractId')->all();
        $sources = $migration
            ->sources()
            ->with(['extracts' => fn ($q) => $q->orderBy('id'), 'extracts.take:'.Take::LISTED])
            ->orderBy('id')
            ->get();
        $extracts = $sources
            ->flatMap(fn (Source $s) => $s->extracts->each(fn (Extract $e) => $e->setRelation('source', $s)))
            ->filter(fn (Extract $e) => $only === null || in_array($e->id, $only, true))
            ->values();
        $open = Finding::openPerExtract($extracts->pluck('take_id')->filter());

        return $this->screen('sources.index', [
            'page' => $page,
            'sources' => $sources,
            'extracts' => SourceTables::extracts($request, $extracts, collect($open)->all()),
            'rows' => $extracts->sum(fn (Extract $e) => (int) $e->take?->rows),
            'latest' => array_intersect_key($latest, $extracts->keyBy('id')->all()),
            'open' => $open,
            'connections' => Connection::query()
                ->whereIn('source_id', $sources->pluck('id'))
                ->orderBy('name')
                ->get()
                ->groupBy('source_id'),
        ]);
    }

    public function store(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate([
            'code' => 'required|alpha_dash:ascii|max:12',
            'name' => 'required|string|max:200',
            'notes' => 'nullable|string|max:2000',
        ]);
        if ($migration->sources()->where('code', $data['code'])->exists()) {
            return back()->with('refused', "There is a source with the code $data[code] already.");
        }
        $migration->sources()->create($data);
        Audit::note($migration->id, "added source $data[code]");

        return back()->with(
            'told',
            "Source $data[code] is there. Upload its first file, or describe how its database is reached.",
        );
    }

    /** Stops the freezing of a take at its next report. */
    public function stop(Migration $migration, Take $take): RedirectResponse
    {
        $this->authorize('work', $migration);
        if (
            Take::query()
                ->whereKey($take->id)
                ->whereIn('state', [TakeState::Waiting, TakeState::Reading])
                ->update(['state' => TakeState::Stopping]) === 0
        ) {
            return back()->with('refused', "Take $take->number is not being read any more.");
        }
        Audit::note($migration->id, "stopped take $take->number of {$take->extract->name}");

        return back()->with('told', "Take $take->number stops now; nothing of it is kept.");
    }

    public function progress(Request $request, Migration $migration, Take $take): Response
    {
        $this->authorize('view', $migration);
        $answer = response()->view('sources.progress', ['migration' => $migration, 'take' => $take]);
        // Who waits on the page of an extract without rows wants to see them; any other page may hold something half typed.
        $waits = $take->number === 1
            && $take->state === TakeState::Frozen
            && str_ends_with(
                (string) parse_url((string) $request->header('HX-Current-URL'), PHP_URL_PATH),
                "/sources/extracts/$take->extract_id",
            );

        return $waits ? $answer->header('HX-Trigger', 'figures-are-old') : $answer;
    }
}
