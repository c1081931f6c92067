<?php

namespace App\Http\Controllers;

use App\Deltas\Delta;
use App\DryRuns\DryRuns;
use App\Ledger\DryRows;
use App\Ledger\Only;
use App\Loading\Rounds;
use App\Models\DryRun;
use App\Models\Migration;
use App\Rejects\Proposals;
use App\View\DryRunFound;
use App\View\Page;
use App\View\Tables\DryRunTables;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** What loading, or a repair, would do; tried without writing. */
final class DryRunsController extends Controller
{
    private const ROWS = 50;

    public function show(Request $request, Migration $migration, DryRun $dryRun): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, Proposals::of($dryRun) === null ? 'runs' : 'rejects');
        $after = preg_match('/^(\d{1,9}):(\d{1,10})$/', (string) $request->query('after'), $m) === 1 ? [(int) $m[1], (int) $m[2]] : null;
        $outcome = is_string($request->query('outcome')) ? $request->query('outcome') : null;
        $load = $request->integer('load') ?: null;
        $what = in_array($request->query('what'), ['added', 'changed', 'gone'], true) ? $request->query('what') : null;
        $rows = $dryRun->isGoing() ? [] : (new DryRows($dryRun->id))->page($after, $outcome, $load, self::ROWS + 1, $what);
        $last = count($rows) > self::ROWS ? $rows[self::ROWS - 1] : null;

        $next = $last === null ? null : "$last->load_id:$last->row_no";
        $found = DryRunFound::of($dryRun, $page);
        $tables = new DryRunTables($request);

        return $this->screen('dry-runs.show', [
            'page' => $page,
            'run' => $dryRun,
            'found' => $found,
            'moves' => $found === null ? null : $tables->moves($found),
            'causes' => $found === null ? null : $tables->causes($found),
            'counted' => DryRunTables::OF_LOADS,
            'loads' => $found === null || $found->delta === null ? null : $tables->loads($found->delta),
            'proposed' => Proposals::of($dryRun),
            'rows' => array_slice($rows, 0, self::ROWS),
            'outcome' => $outcome,
            'what' => $what,
            'load' => $load,
            'next' => $next,
            'query' => http_build_query(array_filter(['load' => $load, 'outcome' => $outcome, 'what' => $what, 'after' => $next])),
        ]);
    }

    /** A whole pass: the first of a round that is not begun, loading again, or a delta. */
    public function store(Request $request, Migration $migration, Rounds $rounds): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate([
            'target' => 'nullable|integer',
            'parameters' => 'nullable|array|max:200',
            'parameters.*' => 'nullable|string|max:255',
            'without' => 'nullable|array|max:1000',
            'without.*' => 'integer',
            'again' => 'nullable|boolean',
            'delta' => 'nullable|boolean',
            'against' => 'nullable|integer',
        ]);
        $without = array_values(array_map(intval(...), $data['without'] ?? []));
        try {
            if ($request->boolean('delta')) {
                $round = Page::of($migration, 'runs')->round ?? abort(404);
                $run = DryRuns::ofDelta($round, new Delta($request->boolean('full'), $request->boolean('keep_takes')));
            } elseif ($request->boolean('again')) {
                $round = Page::of($migration, 'runs')->round ?? abort(404);
                $page = Page::of($migration, 'runs');
                $without = $page->leftOut($request->boolean('all'), $request->string('entity')->toString());
                $run = DryRuns::ofRetry($round, $without, Only::of((string) $request->input('alike')));
            } else {
                $target = $migration->targets()->findOrFail($data['target'] ?? 0);
                $rounds->given($migration, $data['parameters'] ?? []);
                $earlier = ($data['against'] ?? '') !== '' ? $migration->rounds()->findOrFail($data['against']) : null;
                $run = DryRuns::ofFirst($migration, $target, $data['parameters'] ?? [], $without, $earlier);
            }
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage())->withInput();
        }

        return redirect("/m/$migration->id/dry-runs/$run->id");
    }

    public function stop(Migration $migration, DryRun $dryRun): RedirectResponse
    {
        $this->authorize('repair', $migration);
        DryRuns::stop($dryRun);

        return back()->with('told', 'The dry run stops now.');
    }
}
