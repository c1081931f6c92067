<?php

namespace App\Http\Controllers;

use App\Deltas\Delta;
use App\Freezing\Room;
use App\Ledger\BackOutBook;
use App\Ledger\Only;
use App\Loading\EndPass;
use App\Loading\LookForRecords;
use App\Loading\PassLog;
use App\Loading\Rounds;
use App\Loading\TargetInUse;
use App\Models\Audit;
use App\Models\DryRunKind;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\PassState;
use App\Models\RoundEnd;
use App\Models\User;
use App\Models\Work;
use App\Models\WorkKind;
use App\Models\WorkState;
use App\Reconciling\EndRound;
use App\Reconciling\NewerTakes;
use App\Reconciling\RoundEnding;
use App\Rejects\Repairs;
use App\Support\WorkerPresence;
use App\View\Page;
use App\View\Tables\RunTables;
use App\View\Timetable;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Ordering\OrderError;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Symfony\Component\HttpFoundation\StreamedResponse;

final class RunsController extends Controller
{
    /** Records shown that a back-out left. */
    private const LEFT = 50;

    public function __construct(private readonly Rounds $rounds)
    {
    }

    public function index(Request $request, Migration $migration, ?string $entity = null): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'runs', $entity);

        $newer = $page->round === null ? [] : NewerTakes::of($page->round);
        $passes = $this->passes($request, $page);

        return $this->screen('runs.index', $passes['tables'] + $passes + [
            'parameters' => $migration->parameters()->orderBy('name')->get(),
            'targets' => $migration->targets()->orderBy('id')->get(),
            'works' => Work::toShow($migration),
            'dryRuns' => $migration->dryRuns()->where('kind', '<>', DryRunKind::Repair)->latest('id')->limit(4)->get(),
            'room' => Room::said(Room::neededForRows((int) $page->all()->sum('rows'))),
            'newer' => $newer,
            'newerTable' => RunTables::newer($request, $newer),
            'ended' => $page->round?->endedBy?->name,
            'earlier' => $page->rounds->reverse()->values(),
            'next' => 'rehearsal-'.($page->rounds->where('kind', 'rehearsal')->count() + 1),
        ]);
    }

    /** @return array<string, mixed> what is shown of the passes of a round */
    private function passes(Request $request, Page $page): array
    {
        $tables = [];
        foreach ($page->passes() as $pass) {
            $tables["pass$pass->number"] = RunTables::loads($request, $page, $pass);
        }

        return [
            'tables' => $tables,
            'page' => $page,
            'passes' => $page->passes(),
            'logs' => PassLog::of($page->passes()->pluck('id')->all()),
            'timetables' => $page->passes()->mapWithKeys(fn (Pass $p) => [$p->id => Timetable::of($page, $p)])->all(),
            'left' => $page->passes()->filter(fn (Pass $p) => $p->left_records > 0)
                ->mapWithKeys(fn (Pass $p) => [$p->id => BackOutBook::leftBy($p->id, self::LEFT)])->all(),
            'people' => User::names($page->passes()->pluck('user_id')->all()),
        ];
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
            'without' => 'array',
            'without.*' => 'integer',
            'only' => 'nullable|string|max:64',
            'anyway' => 'nullable|boolean',
            'against' => 'nullable|integer',
        ]);
        if ($data['kind'] === 'cutover') {
            $this->authorize('cutover', $migration);
            $this->confirmed($request);
        }
        $target = $migration->targets()->findOrFail($data['target']);
        $earlier = ($data['against'] ?? '') !== '' ? $migration->rounds()->findOrFail($data['against']) : null;
        try {
            $this->rounds->open(
                $migration,
                $target,
                $data['name'],
                $data['kind'],
                $data['parameters'] ?? [],
                $request->boolean('anyway') || $earlier !== null,
                [
                    ...array_map(intval(...), $data['without'] ?? []),
                    ...isset($data['only']) ? self::others($migration, $data['only']) : [],
                ],
                $earlier,
            );
            session()->forget("round.$migration->id");
        } catch (TargetInUse $e) {
            return back()->withInput()->with('inUse', true)->with('refused', $e->getMessage());
        } catch (TargetUnavailable|OrderError|\DomainException $e) {
            return back()->withInput()->with('refused', $e->getMessage());
        }

        return redirect("/m/$migration->id/runs");
    }

    /** @return list<int> loads that do not fill the entity */
    private static function others(Migration $migration, string $entity): array
    {
        $loads = $migration->loads()->whereHas('entity', fn ($e) => $e->where('name', '<>', $entity))->pluck('id');

        return array_values(array_map(intval(...), $loads->all()));
    }

    /** Loads again what is due of a cause, an entity or all, and what it frees; with "all", also what was not asked for before. */
    public function retry(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('work', $migration);
        $page = Page::of($migration, 'runs');
        $round = $page->round;
        $without = $page->leftOut($request->boolean('all'), $request->string('entity')->toString());
        $only = Only::of((string) $request->input('alike'));
        try {
            $round === null
                ? throw new \DomainException('There is no round yet.')
                : $this->rounds->start($round, PassKind::Retry, $without, only: $only);
        } catch (\DomainException|OrderError $e) {
            return back()->with('refused', $e->getMessage());
        }

        return back();
    }

    /** Takes the round to newer takes, rules, codes and decisions. */
    public function delta(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('work', $migration);
        $page = Page::of($migration, 'runs');
        $round = $page->round ?? abort(404);
        if ($round->kind === 'cutover') {
            $this->authorize('cutover', $migration);
            $this->confirmed($request);
        }
        $delta = new Delta($request->boolean('full'), $request->boolean('keep_takes'));
        try {
            if ($page->removing()->isNotEmpty() && ! $request->boolean('removes')) {
                throw new \DomainException('Loads of this migration remove records of rows that are delivered no more: say that this is '
                    .'meant, or have them kept or reviewed in Mapping.');
            }
            $this->rounds->start($round, PassKind::Delta, delta: $delta);
        } catch (\DomainException|OrderError $e) {
            return back()->with('refused', $e->getMessage());
        }

        return back();
    }

    /** Nothing of an ended round changes any more. */
    public function end(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('work', $migration);
        $round = Page::of($migration, 'runs')->round ?? abort(404);
        if ($round->kind === 'cutover') {
            $this->authorize('accept', $migration);
            $this->confirmed($request);
        }
        $data = $request->validate([
            'as' => 'required|in:'.implode(',', array_column(RoundEnd::cases(), 'value')),
            'reason' => 'required|string|max:1000',
        ]);
        try {
            RoundEnding::mayEnd($round);
            Repairs::mayBeDecided($round);
            $work = Work::ask($migration, WorkKind::EndRound, "Counting $round->name, then it is $data[as]", [
                'round' => $round->id,
                'as' => $data['as'],
                'reason' => $data['reason'],
            ], 0);
            EndRound::dispatch($work->id);
        } catch (\DomainException $e) {
            return back()->withInput()->with('refused', $e->getMessage());
        }

        return $this->told($work);
    }

    /** What came of work where the queue did it at once; else the page shows how far it is. */
    private function told(Work $work): RedirectResponse
    {
        $ended = $work->refresh();
        if ($ended->isGoing()) {
            return back();
        }
        $ended->update(['seen' => true]);

        return back()->with($ended->state === WorkState::Done ? 'told' : 'refused', $ended->told);
    }

    /** What a round is called, and what it was for. */
    public function describeRound(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('work', $migration);
        $round = Page::of($migration, 'runs')->round ?? abort(404);
        $data = $request->validate([
            'name' => ['required', 'max:60', 'regex:/^[a-z0-9][a-z0-9-]*$/'],
            'note' => 'nullable|string|max:1000',
        ]);
        try {
            Rounds::describe($round, $data['name'], trim((string) ($data['note'] ?? '')), $request->input('was'));
        } catch (\DomainException $e) {
            return back()->withInput()->with('refused', $e->getMessage());
        }

        return back()->with('told', 'Kept.');
    }

    /** A lead has it looked whether the records of a round are in a target that was set back. */
    public function records(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('accept', $migration);
        $round = Page::of($migration, 'runs')->round ?? abort(404);
        LookForRecords::dispatch($round->id);

        return back()->with('told', 'Its records are being looked for, key by key. The page says when they are all there.');
    }

    /** Its workers stop when the stretch they are at is recorded. */
    public function pause(Migration $migration, Pass $pass): RedirectResponse
    {
        $this->authorize('work', $migration);
        if ($pass->state === PassState::Queued && ! $pass->is_prepared) {
            $pass->update(['state' => PassState::Stopped, 'finished_at' => now()]);
        } elseif ($pass->isGoing()) {
            // Also one that waits for its next turn: its worker counts what it leaves.
            $pass->update(['stop_requested' => true]);
        }
        Audit::note($migration->id, "paused pass $pass->number");

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

    /** What it loaded stands; the rows it did not come to were not asked for. */
    public function endPass(Migration $migration, Pass $pass): RedirectResponse
    {
        $this->authorize('work', $migration);
        if (! $pass->canResume() || $pass->kind === PassKind::BackOut) {
            return back()->with('refused', "Pass $pass->number is {$pass->stateInWords()}: only one that is paused can be ended.");
        }
        EndPass::dispatch($pass->id);
        Audit::note($migration->id, "ended pass $pass->number before all rows");

        return back()->with('told', "Pass $pass->number ends here. Its page says when that is done.");
    }

    /** What it and all later passes of its round wrote is taken back. */
    public function backOut(Request $request, Migration $migration, Pass $pass): RedirectResponse
    {
        $this->authorize('work', $migration);
        if ($pass->round->kind === 'cutover') {
            $this->authorize('cutover', $migration);
            $this->confirmed($request);
        }
        try {
            $this->rounds->startBackOut($pass->round, $pass->number);
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }

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
        $entity = $request->filled('entity') ? (string) $request->query('entity') : null;
        $page = Page::of($migration, 'runs', $entity);
        // On Runs the passes come with it, from the same figures.
        $passes = $request->boolean('passes') ? view('runs.passes', $this->passes($request, $page) + ['oob' => true])->render() : '';
        $response = response(view('components.run-strip', ['page' => $page, 'isOnRuns' => $request->boolean('passes')])->render().$passes);
        // When the pass has ended every figure on the page is old; the page knows whether it may be read anew at once.
        if (! $page->pass?->isGoing()) {
            $response->header('HX-Trigger', 'figures-are-old');
        }

        return $response;
    }
}
