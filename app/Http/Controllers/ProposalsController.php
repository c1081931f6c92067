<?php

namespace App\Http\Controllers;

use App\Http\Requests\Proposal;
use App\Models\DryRun;
use App\Models\Entity;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Repair;
use App\Models\Work;
use App\Models\WorkState;
use App\Reconciling\CountBook;
use App\Rejects\CauseGroup;
use App\Rejects\Proposals;
use App\Rejects\ProposedKind;
use App\Rejects\Undo;
use App\View\Page;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

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

    /** A record of its own for rows without a parent. */
    public function parent(Request $request, Migration $migration, Load $load, string $field): View
    {
        $this->authorize('work', $migration);
        $parent = $this->parentOf($migration, $load, $field);

        return view('rejects.default', [
            'page' => Page::ofLoad($migration, 'rejects', $load),
            'load' => $load,
            'field' => $field,
            'parent' => $parent,
            'fields' => $parent->described()->writable(),
            'code' => self::without($request),
        ]);
    }

    public function makeParent(Request $request, Migration $migration, Load $load, string $field): RedirectResponse
    {
        $this->authorize('work', $migration);
        $parent = $this->parentOf($migration, $load, $field);
        $data = $request->validate([
            'key' => 'required|string|max:100', 'values' => 'array|max:500', 'values.*' => 'nullable|string|max:4000',
        ]);
        $round = Page::of($migration, 'rejects')->round ?? abort(404);
        try {
            $run = $this->proposals->tryRecord(
                $round, $load, $field, self::without($request), $parent, trim($data['key']),
                array_map(strval(...), $data['values'] ?? []),
            );
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage())->withInput();
        }

        return redirect("/m/$migration->id/dry-runs/$run->id")->with(
            'told',
            'The record is made, by a load of its own: rounds begun from now on have it. Keep the rule, and they give it to the rows.',
        );
    }

    /** Why the rows are without a parent: it is nowhere, or it was left behind. */
    private static function without(Request $request): string
    {
        return $request->input('code') === 'parent_left' ? 'parent_left' : 'orphan';
    }

    private function parentOf(Migration $migration, Load $load, string $field): Entity
    {
        $refers = ($load->entity->described()->writable()[$field] ?? null)->refers ?? abort(404);

        return $migration->entities()->where('name', $refers)->firstOrFail();
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
            $told = $told instanceof Work ? self::byWorker($told) : $told;
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }
        $proposed->kind === ProposedKind::Stay ? CountBook::ask($round) : null;
        $back = (string) ($dryRun->given['from'] ?? "/m/$migration->id/rejects");
        parse_str((string) parse_url($back, PHP_URL_QUERY), $query);
        // Back where one was on the page.
        $back .= is_string($query['cause'] ?? null) ? '#'.CauseGroup::anchorOf($query['cause']) : '';

        return redirect($back)->with('told', $told);
    }

    public function undo(Migration $migration, Repair $repair, Undo $undo): RedirectResponse
    {
        $this->authorize('repair', $migration);
        if (in_array(ProposedKind::from($repair->kind), [ProposedKind::Rule, ProposedKind::Parent], true)) {
            $this->authorize('work', $migration);
        }
        try {
            $told = $undo->undo($repair);
            $told = $told instanceof Work ? self::byWorker($told) : $told;
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }
        $round = $repair->round_id === null ? null : $migration->rounds()->find($repair->round_id);
        $repair->kind === ProposedKind::Stay->value && $round !== null && ! $round->hasEnded() ? CountBook::ask($round) : null;

        return back()->with('told', $told);
    }

    private static function byWorker(Work $work): string
    {
        // A queue that does it at once has told by now.
        if ($work->refresh()->isGoing()) {
            return "$work->title: a worker does it. This page says how far it is.";
        }
        $work->update(['seen' => true]);

        return $work->state === WorkState::Refused ? throw new \DomainException((string) $work->told) : (string) $work->told;
    }
}
