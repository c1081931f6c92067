<?php

namespace App\Http\Controllers;

use App\Decisions\AnswerChanges;
use App\Files\FileBook;
use App\Ledger\CauseReader;
use App\Ledger\DueBook;
use App\Ledger\Links;
use App\Ledger\RepairBook;
use App\Ledger\WaiverBook;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Repair;
use App\Models\Round;
use App\Models\Work;
use App\Reconciling\CountBook;
use App\Rejects\CauseGroup;
use App\Rejects\CauseList;
use App\Rejects\CauseTasks;
use App\Rejects\CorrectionList;
use App\Rejects\LeftOut;
use App\View\CauseOpened;
use App\View\Page;
use App\View\Tables\RejectTables;
use Baggage\Core\Rows\Outcome;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

final class RejectsController extends Controller
{
    /** Lines read of what is listed; beyond, the page says how to see the others. */
    private const MOST = 1_000;

    public function index(Request $request, Migration $migration, ?string $entity = null): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'rejects', $entity);
        if ($page->round === null || $page->orderError() !== null) {
            return view('rejects.none', ['page' => $page]);
        }
        $loads = array_values($page->loads()->pluck('id')->all());
        $links = array_values(array_filter(
            (new Links($page->round->laneId()))->open(),
            fn ($l) => in_array((int) $l->load_id, $loads, true),
        ));
        $counts = $this->counts($page) + [
            'references' => array_sum(array_column($links, 'waiting')),
            'open references' => array_sum(array_column($links, 'waived')),
            'corrections' => CorrectionList::countWaiting($migration),
            'repairs' => $migration->repairs()->count(),
            'files' => $page->round->files()->whereNull('closed_at')->count(),
        ];
        $show = in_array($request->query('show'), ['held', 'left', 'references', 'corrections', 'repairs', 'files'], true)
            ? (string) $request->query('show')
            : 'causes';
        $tables = new RejectTables($request, $page);

        return $this->screen('rejects.index', [
            'page' => $page,
            'show' => $show,
            'counts' => $counts,
            'works' => Work::toShow($migration),
        ] + match ($show) {
            'held' => $this->held($tables, $page, $page->round, $loads),
            'left' => $this->left($tables, $page->round, $loads),
            'references' => ['links' => $tables->references($links)],
            'corrections' => ['undecided' => $tables->corrections(CorrectionList::waiting($migration, self::MOST))],
            'repairs' => $this->repairs($tables, $page->round),
            'files' => $this->files($tables, $page->round),
            default => $this->causes($request, $tables, $page, $page->round, $loads),
        });
    }

    /**
     * @param  list<int>  $loads
     * @return array<string, mixed>
     */
    private function causes(Request $request, RejectTables $tables, Page $page, Round $round, array $loads): array
    {
        $list = new CauseList(new CauseReader($round->laneId()), new DueBook($round->laneId()));
        $groups = $list->groups($loads);
        $tasks = CauseTasks::all($loads);
        $open = collect($groups)->first(fn (CauseGroup $g) => $g->id() === $request->query('cause'));

        return [
            'groups' => $tables->causes($groups, $tasks),
            'open' => $open,
            'detail' => $open === null ? null : CauseOpened::of($page, $round, $open)->data($request, $tasks),
            'tasks' => $tasks,
        ];
    }

    /**
     * @param  list<int>  $loads
     * @return array<string, mixed>
     */
    private function held(RejectTables $tables, Page $page, Round $round, array $loads): array
    {
        $causes = new CauseReader($round->laneId());
        $held = $tables->held($causes->parentsThatHold($loads, self::MOST));
        $roots = array_filter(
            (new CauseList($causes, new DueBook($round->laneId())))->groups($page->all()->keys()->all()),
            fn (CauseGroup $g) => $g->held > 0,
        );
        usort($roots, fn (CauseGroup $a, CauseGroup $b) => $b->held <=> $a->held);

        return [
            'held' => $held,
            'because' => $causes->becauseOf(array_column($held->rows(), 'id')),
            'most' => self::MOST,
            'roots' => $tables->roots($roots),
        ];
    }

    /** @return array<string, mixed> what was repaired, the newest first */
    private function repairs(RejectTables $tables, Round $round): array
    {
        $made = Repair::query()->where('migration_id', $round->migration_id)->with(['user', 'undoneBy', 'extract'])->latest('id');

        return ['repairs' => $tables->repairs($made->limit(self::MOST)->get()->all()), 'passes' => RepairBook::passes($round)];
    }

    /** @return array<string, mixed> files for the client, and what came back that is not decided */
    private function files(RejectTables $tables, Round $round): array
    {
        $open = AnswerChanges::openIn($round->id);

        return [
            'files' => $tables->files($round->files()->with('user')->withCount('answers')->latest('id')->limit(self::MOST)->get()->all()),
            'answers' => $tables->answers($round->answers()->with('file')->latest('id')->limit(self::MOST)->get()->all(), $open),
            'open' => $open,
            'copies' => FileBook::copies($round),
        ];
    }

    /**
     * What was left behind, and why.
     *
     * @param  list<int>  $loads
     * @return array<string, mixed>
     */
    private function left(RejectTables $tables, Round $round, array $loads): array
    {
        $left = $tables->left((new CauseReader($round->laneId()))->leftBehind($loads, self::MOST));
        $toConfirm = $round->hasEnded() || $round->kind !== 'cutover' ? [] : CountBook::of($round)->toConfirm ?? [];

        return [
            'left' => $left,
            'byPlan' => $tables->byDefinition(LeftOut::lines($round, $loads)),
            'waivers' => WaiverBook::newest($round, array_map(fn ($c) => [(int) $c->load_id, $c->waive_hash], $left->rows())),
            'toConfirm' => $tables->toConfirm($toConfirm),
        ];
    }

    /** @return array<string, int> */
    private function counts(Page $page): array
    {
        $sum = ['rejected' => 0, 'held' => 0, 'waived' => 0, 'excluded' => 0, 'merged' => 0];
        foreach ($page->loads() as $load) {
            foreach (array_keys($sum) as $outcome) {
                $sum[$outcome] += $page->proof($load)->count(Outcome::from($outcome));
            }
        }

        return $sum + ['due' => $page->due($page->loads()), 'again' => $page->toWriteAgain()];
    }

    /** A cause is given to somebody, until some day. */
    public function give(Request $request, Migration $migration, Load $load): RedirectResponse
    {
        $this->authorize('repair', $migration);
        $data = $request->validate([
            'alike' => 'required|string|max:300',
            'to' => 'nullable|integer',
            'until' => 'nullable|date',
            'note' => 'nullable|string|max:500',
        ]);
        $round = Page::of($migration, 'rejects')->round ?? abort(404);
        $list = new CauseList(new CauseReader($round->laneId()), new DueBook($round->laneId()));
        $group = collect($list->groups([$load->id]))->first(fn (CauseGroup $g) => $g->id() === $data['alike']) ?? abort(404);
        $to = empty($data['to']) ? null : $migration->users()->findOrFail($data['to']);
        CauseTasks::give($load, $group, $to, ($data['until'] ?? '') ?: null, $data['note'] ?? null);

        return back()->with('told', $to === null ? 'Nobody sees to it any more.' : "$to->name sees to it.");
    }
}
