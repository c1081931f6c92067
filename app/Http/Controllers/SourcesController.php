<?php

namespace App\Http\Controllers;

use App\Models\Extract;
use App\Models\Migration;
use App\Models\Take;
use App\Support\Audit;
use App\View\Page;
use Baggage\Core\Reading\RawRow;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Illuminate\View\View;

final class SourcesController extends Controller
{
    private const PAGE = 60;

    public function index(Migration $migration, ?string $entity = null): View
    {
        $this->authorize('view', $migration);
        $page = new Page($migration, 'sources', $entity);
        $only = $page->entity === null ? null : $page->loads()->pluck('extract_id')->all();
        $sources = $migration->sources()->with(['extracts' => fn ($q) => $q->orderBy('id'), 'extracts.take', 'extracts.takes' => fn ($q) => $q->latest('number')])->orderBy('id')->get();

        return view('sources.index', ['page' => $page, 'sources' => $sources, 'only' => $only]);
    }

    public function store(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate(['code' => 'required|alpha_dash:ascii|max:12', 'name' => 'required|string|max:200', 'notes' => 'nullable|string|max:2000']);
        if ($migration->sources()->where('code', $data['code'])->exists()) {
            return back()->with('refused', "There is a source with the code $data[code] already.");
        }
        $migration->sources()->create($data);
        Audit::note($migration->id, "added source $data[code]");

        return back()->with('told', "Source $data[code] is there. Upload its first file.");
    }

    public function extract(Request $request, Migration $migration, Extract $extract): View
    {
        $this->authorize('view', $migration);
        abort_unless($extract->source?->migration_id === $migration->id, 404);
        $after = max(0, $request->integer('after'));
        $from = max(0, min($request->integer('from'), max(0, count($extract->columns ?? []) - 1)));
        $rows = DB::table('staged_rows')->where('take_id', $extract->take_id)->where('row_no', '>', $after)->orderBy('row_no')->limit(self::PAGE)->get(['row_no', 'line', 'cells']);
        $values = null;
        if ($request->filled('column')) {
            $column = $extract->tidyColumns()->find((string) $request->query('column'));
            $values = $column === null ? null : ['column' => $column, 'rows' => DB::table('column_values')->where('take_id', $extract->take_id)->where('position', $column->position)
                ->orderByDesc('n')->orderBy('value')->limit(200)->get(['value', 'n'])];
        }

        return view('sources.extract', [
            'page' => new Page($migration, 'sources'), 'extract' => $extract, 'take' => $extract->take, 'after' => $after, 'from' => $from,
            'rows' => $rows->map(fn ($r) => [(int) $r->row_no, new RawRow((int) $r->line, json_decode($r->cells, true))]), 'values' => $values,
            'latest' => $extract->takes()->latest('number')->first(),
        ]);
    }

    public function progress(Migration $migration, Take $take): View
    {
        $this->authorize('view', $migration);
        abort_unless($take->extract?->source?->migration_id === $migration->id, 404);

        return view('sources.progress', ['migration' => $migration, 'take' => $take]);
    }
}
