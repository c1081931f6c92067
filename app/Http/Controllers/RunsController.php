<?php

namespace App\Http\Controllers;

use App\Loading\Rounds;
use App\Models\Audit;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassState;
use App\Support\WorkerPresence;
use App\View\Page;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Ordering\OrderError;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\View\View;

final class RunsController extends Controller
{
    public function __construct(private readonly Rounds $rounds)
    {
    }

    public function index(Migration $migration, ?string $entity = null): View
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'runs', $entity);

        return view('runs.index', [
            'page' => $page,
            'passes' => $page->round
                ?->passes()
                ->with(['passLoads.ofLoad.entity', 'user'])
                ->latest('number')
                ->get() ?? collect(),
            'parameters' => $migration->parameters()->orderBy('name')->get(),
            'targets' => $migration->targets()->orderBy('id')->get(),
            'next' => 'rehearsal-'.($migration->rounds()->where('kind', 'rehearsal')->count() + 1),
        ]);
    }

    public function begin(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate([
            'name' => ['required', 'max:60', 'regex:/^[a-z0-9][a-z0-9-]*$/'],
            'kind' => 'required|in:rehearsal,cutover',
            'target' => 'required|integer',
            'parameters' => 'array',
            'parameters.*' => 'nullable|string|max:250',
        ]);
        $target = $migration->targets()->findOrFail($data['target']);
        try {
            $round = $this->rounds->begin($migration, $target, $data['name'], $data['kind'], $data['parameters'] ?? []);
            session()->forget("round.$migration->id");
            $this->rounds->start($round, PassKind::First);
        } catch (TargetUnavailable|OrderError|\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }

        return redirect("/m/$migration->id/runs");
    }

    /** Loads again what was repaired, and what follows from it. */
    public function retry(Migration $migration): RedirectResponse
    {
        $this->authorize('work', $migration);
        $round = Page::of($migration, 'runs')->round;
        try {
            $round === null
                ? throw new \DomainException('There is no round yet.')
                : $this->rounds->start($round, PassKind::Retry);
        } catch (\DomainException|OrderError $e) {
            return back()->with('refused', $e->getMessage());
        }

        return back();
    }

    public function stop(Migration $migration, Pass $pass): RedirectResponse
    {
        $this->authorize('work', $migration);
        if ($pass->state === PassState::Queued) {
            $pass->update(['state' => PassState::Stopped, 'finished_at' => now()]);
        } elseif ($pass->state === PassState::Running) {
            $pass->update(['stop_requested' => true]);
        }
        Audit::note($migration->id, "stopped pass $pass->number");

        return back();
    }

    public function resume(Migration $migration, Pass $pass): RedirectResponse
    {
        $this->authorize('work', $migration);
        if ($pass->state === PassState::Running && ! WorkerPresence::of("pass:$pass->id")->isAnybodyThere()) {
            $pass->update(['state' => PassState::Stopped]);
        }
        try {
            $this->rounds->resume($pass);
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }
        Audit::note($migration->id, "resumed pass $pass->number");

        return back();
    }

    public function look(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('view', $migration);
        $round = $migration->rounds()->findOrFail($request->integer('round'));
        session(["round.$migration->id" => $round->id]);

        return back();
    }

    public function strip(Request $request, Migration $migration): Response
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'runs');
        $response = response(view('components.run-strip', ['page' => $page]));
        // When the pass has ended every figure on the page is old.
        if (! $page->pass?->isGoing()) {
            $response->header('HX-Refresh', 'true');
        }

        return $response;
    }
}
