<?php

namespace App\Http\Controllers;

use App\Models\Audit;
use App\Models\Change;
use App\Models\ChangeList;
use App\Models\ChangeState;
use App\Models\ListKind;
use App\Models\Migration;
use App\Plans\ApplyPlan;
use App\Plans\PlanChanges;
use App\Plans\PlanImporter;
use App\Specification\Changes;
use App\Specification\Decisions;
use App\View\Page;
use App\View\Say;
use App\View\Tables\MappingTables;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Targets\Schema;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** Changes that came back in a workbook or a sheet of codes: each is looked at and accepted or not. */
final class ChangesController extends Controller
{
    public function show(Request $request, Migration $migration, ChangeList $list): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $isTarget = $list->kind === ListKind::Target;

        return $this->screen($isTarget ? 'target.changes' : 'specification.changes', [
            'page' => Page::of($migration, $list->kind->stop()),
            'list' => $list,
            'table' => $isTarget ? MappingTables::described($request, $list) : MappingTables::changes($request, $list),
        ]);
    }

    public function apply(
        Request $request,
        Migration $migration,
        ChangeList $list,
        Decisions $changes,
        PlanImporter $importer,
        PlanChanges $plans,
    ): RedirectResponse {
        $this->authorize('work', $migration);
        if ($list->kind === ListKind::Target) {
            return $this->takeOver($migration, $list, $importer);
        }
        $data = $request->validate(['accept' => 'array', 'accept.*' => 'integer', 'do' => 'required|in:accept,refuse']);
        if ($list->kind === ListKind::Plan && $data['do'] === 'accept') {
            return $this->plan($migration, $list, array_map(intval(...), $data['accept'] ?? []), $plans);
        }
        [$made, $refused] = $changes->decide($list, $data['accept'] ?? [], $data['do'] === 'accept', $request->user());
        Audit::note($migration->id, "decided on changes of $list->file_name", [
            'accepted' => $made,
            'refused' => $refused,
        ]);

        return redirect("/m/$migration->id/changes/$list->id")->with(
            'told',
            $data['do'] === 'refuse'
                ? Say::count($refused, 'change').' refused.'
                : Say::count($made, 'change').' made.',
        );
    }

    /**
     * A plan counts as a whole too: what is not ticked stays as it is here.
     *
     * @param  array<int>  $accepted
     */
    private function plan(Migration $migration, ChangeList $list, array $accepted, PlanChanges $plans): RedirectResponse
    {
        if ($list->open() === []) {
            return back()->with('refused', 'It has been decided already.');
        }
        if (ApplyPlan::isLong((string) ($list->description['plan'] ?? ''))) {
            ApplyPlan::dispatch((string) $list->description['plan'], $list->file_name, (int) Auth::id(), $list->id, $accepted);

            return back()->with('told', 'The plan is applied now; this page says when it is done.');
        }
        try {
            $made = $plans->apply($list, $accepted);
        } catch (PlanError $e) {
            return back()->with('refused', $e->getMessage());
        }

        return redirect("/m/$migration->id/changes/$list->id")->with('told', Say::count($made, 'change').' made.');
    }

    /** A description counts as a whole: half of one would be neither the old target nor the new. */
    private function takeOver(Migration $migration, ChangeList $list, PlanImporter $importer): RedirectResponse
    {
        if ($list->open() === []) {
            return back()->with('refused', 'It has been taken over already.');
        }
        $importer->keep($migration, Schema::fromArray($list->description ?? []));
        $list->update(['changes' => array_map(fn (Change $c) => $c->decided(ChangeState::Accepted), $list->changes)]);
        Audit::note($migration->id, "took over the target's description of $list->file_name", [
            'changes' => count($list->changes),
        ]);
        $touched = array_unique(array_merge([], ...array_map(fn (Change $c) => $c->data['rules'] ?? [], $list->changes)));

        return redirect("/m/$migration->id/target")->with(
            'told',
            Say::count(count($list->changes), 'change').' taken over.'
                .($touched === []
                    ? ''
                    : ' Look at these rules again: '.implode('; ', array_slice($touched, 0, 20)).'.'),
        );
    }
}
