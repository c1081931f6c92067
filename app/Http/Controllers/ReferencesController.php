<?php

namespace App\Http\Controllers;

use App\Models\Audit;
use App\Models\ColumnReference;
use App\Models\Migration;
use App\Models\ReferenceDecision;
use App\Models\Take;
use App\Profiling\ReferenceFinder;
use App\Staging\StagedRows;
use App\View\Page;
use App\View\ReferenceChart;
use App\View\Tables\ExtractTables;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Validation\Rule;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** What hangs on what: references between extracts, found in the data. */
final class ReferencesController extends Controller
{
    public function index(Request $request, Migration $migration): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $all = ColumnReference::dismissedLast()
            ->where('migration_id', $migration->id)
            ->with(['extract.source', 'extract.take:'.Take::LISTED, 'parent.source', 'parent.take:'.Take::LISTED])
            ->get();
        $open = $request->has('orphans') ? $all->firstWhere('id', $request->integer('orphans')) : null;
        $numbers = $open === null ? null : ReferenceFinder::orphans($open, $request->integer('after'));

        return $this->screen('sources.references', [
            'page' => Page::of($migration, 'sources'),
            'references' => $all,
            'table' => ExtractTables::references($request, $all),
            'chart' => ReferenceChart::of($all->all()),
            'open' => $open,
            'rows' => $open === null ? [] : StagedRows::asRead((int) $open->extract->take_id, $numbers->shown),
            'next' => $numbers?->next,
        ]);
    }

    public function decide(Request $request, Migration $migration, ColumnReference $reference): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate(['decision' => ['required', Rule::enum(ReferenceDecision::class)]]);
        $reference->update($data + ['user_id' => $request->user()?->id]);
        $name = implode(' + ', $reference->columns)." of {$reference->extract->name} to {$reference->parent->name}";
        Audit::note($migration->id, "reference $name: $data[decision]");

        return redirect("/m/$migration->id/sources/references")->with(
            'told',
            match ($data['decision']) {
                'accepted' => "$name is known now: mapping suggests the parent by it, and order knows it.",
                'dismissed' => "$name is no reference.",
                default => "$name is undecided again.",
            },
        );
    }
}
