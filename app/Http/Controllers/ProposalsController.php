<?php

namespace App\Http\Controllers;

use App\Http\Requests\Proposal;
use App\Models\DryRun;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Repair;
use App\Models\Work;
use App\Reconciling\CountBook;
use App\Rejects\Proposals;
use App\Rejects\ProposedKind;
use App\Rejects\Undo;
use App\View\Page;
use Illuminate\Http\RedirectResponse;

/** Repairs: tried on the rows they are about, then kept. */
final class ProposalsController extends Controller
{
    public function __construct(private readonly Proposals $proposals)
    {
    }

    public function store(Proposal $request, Migration $migration, Load $load): RedirectResponse
    {
        $round = Page::of($migration, 'rejects')->round ?? abort(404);
        // Who goes through a list gives the same reason again and again.
        $request->session()->put('reason', (string) $request->input('reason'));
        try {
            $run = $this->proposals->try($round, $request->proposed($round, $load), $request->from());
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage())->withInput();
        }

        return redirect("/m/$migration->id/dry-runs/$run->id");
    }

    public function keep(Migration $migration, DryRun $dryRun): RedirectResponse
    {
        $this->authorize('repair', $migration);
        $proposed = Proposals::of($dryRun) ?? abort(404);
        if (in_array($proposed->kind, [ProposedKind::Rule, ProposedKind::Parent], true)) {
            $this->authorize('work', $migration);
        }
        $round = $migration->rounds()->findOrFail($dryRun->round_id);
        try {
            $told = $this->proposals->keep($round, $dryRun);
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }
        $proposed->kind === ProposedKind::Stay ? CountBook::ask($round) : null;
        $back = (string) ($dryRun->given['from'] ?? "/m/$migration->id/rejects");

        return redirect($back)->with('told', $told instanceof Work ? self::byWorker($told) : $told);
    }

    public function undo(Migration $migration, Repair $repair, Undo $undo): RedirectResponse
    {
        $this->authorize('repair', $migration);
        if (in_array(ProposedKind::from($repair->kind), [ProposedKind::Rule, ProposedKind::Parent], true)) {
            $this->authorize('work', $migration);
        }
        try {
            $told = $undo->undo($repair);
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }
        $round = $repair->round_id === null ? null : $migration->rounds()->find($repair->round_id);
        $repair->kind === ProposedKind::Stay->value && $round !== null && ! $round->hasEnded() ? CountBook::ask($round) : null;

        return back()->with('told', $told);
    }

    private static function byWorker(Work $work): string
    {
        if ($work->isGoing()) {
            return "$work->title: a worker does it. This page says how far it is.";
        }
        // A queue that does it at once has told already.
        $work->update(['seen' => true]);

        return (string) $work->told;
    }
}
