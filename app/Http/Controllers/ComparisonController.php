<?php

namespace App\Http\Controllers;

use App\Ledger\DueBook;
use App\Models\Load;
use App\Models\Migration;
use App\Models\ReckoningKind;
use App\Models\Work;
use App\Models\WorkKind;
use App\Reckoning\Asking;
use App\Reckoning\Differences;
use App\Reckoning\Reckonings;
use App\Reconciling\DifferencesFile;
use App\View\ComparedPage;
use App\View\Page;
use App\View\Tables\TotalTables;
use Baggage\Core\Reconciling\FieldTally;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Validation\Rule;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** Records read back and compared with what was sent, field by field. */
final class ComparisonController extends Controller
{
    private const PAGE = 50;

    public function index(Request $request, Migration $migration, ?string $entity = null): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'reconciliation', $entity);
        $reckoning = $page->round === null ? null : Reckonings::newest($page->round, ReckoningKind::Comparison);

        $compared = $reckoning === null ? null : ComparedPage::of($reckoning, $page->entity?->name);

        return $this->screen('comparison.index', [
            'page' => $page,
            'reckoning' => $reckoning,
            'compared' => $compared,
            'table' => (new TotalTables($request))->compared($compared->loads ?? []),
            'records' => $page->round === null ? 0 : Asking::records($page->round),
            'works' => Work::toShow($migration),
        ]);
    }

    /** Rows whose records differ in one way. */
    public function rows(Request $request, Migration $migration, Load $load): View
    {
        $this->authorize('view', $migration);
        $page = Page::ofLoad($migration, 'reconciliation', $load);
        $reckoning = $page->round === null ? null : Reckonings::newest($page->round, ReckoningKind::Comparison);
        $round = $page->round;
        if ($reckoning === null || $round === null) {
            abort(404);
        }
        $text = fn (string $of) => is_string($request->query($of)) ? $request->query($of) : '';
        $rows = (new Differences($reckoning))
            ->compared($load->id, $text('field'), $text('class'), $text('happened'), $request->integer('after'), self::PAGE + 1);
        $shown = array_slice($rows, 0, self::PAGE);
        $items = array_map(fn (\stdClass $r) => (int) $r->item, $shown);
        $book = new DueBook($round->laneId());
        $canWrite = ! $round->hasEnded() && $text('happened') === FieldTally::SINCE;

        return view('comparison.rows', [
            'page' => $page,
            'load' => $load,
            'reckoning' => $reckoning,
            'field' => $text('field'),
            'class' => $text('class'),
            'happened' => $text('happened'),
            'rows' => $shown,
            'count' => ComparedPage::of($reckoning, null)->changedSince($load->id, $text('field'), $text('class')),
            'again' => $canWrite ? array_flip($book->writtenAgain($load->id, $items)) : null,
            'marked' => $book->toWriteAgain()[$load->id] ?? 0,
            'next' => count($rows) > self::PAGE ? $rows[self::PAGE - 1]->number : null,
            'works' => Work::toShow($migration),
        ]);
    }

    /** All that is behind a page of differences as a file, made by a worker. */
    public function file(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('view', $migration);
        $given = $request->validate([
            'what' => ['required', Rule::in([DifferencesFile::GROUPS, DifferencesFile::ROWS, DifferencesFile::COMPARED])],
            'reckoning' => 'required|integer', 'total' => 'nullable|integer', 'group' => 'nullable|string|max:190',
            'load' => 'nullable|integer', 'field' => 'nullable|string|max:190', 'class' => 'nullable|string|max:60',
            'happened' => 'nullable|string|max:8',
        ]);
        $work = Work::ask($migration, WorkKind::Rows, 'the differences as .csv', array_map(fn ($v) => $v ?? '', $given)
            + ['total' => 0, 'load' => 0, 'field' => '', 'class' => '', 'happened' => ''], 0);
        DifferencesFile::dispatch($work->id);

        return back();
    }

    /** Has a worker count totals, compare records, or both. */
    public function reckon(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('view', $migration);
        $given = $request->validate([
            'what' => 'required|in:totals,comparison',
            'how' => 'nullable|in:all,sample',
            'size' => 'nullable|integer|min:1|max:999999999',
            'confidence' => 'nullable|in:90,95,99',
            'share' => 'nullable|numeric|gt:0|lt:100',
            'seed' => 'nullable|integer|min:0|max:999999999',
        ]);
        $page = Page::of($migration, 'reconciliation');
        $round = $page->round;
        if ($round === null) {
            return back()->with('refused', 'There is no round yet.');
        }
        // A field left empty is sent too.
        $given = array_filter($given, fn ($v) => $v !== null && $v !== '');
        $compare = match (true) {
            $given['what'] === 'totals' => null,
            ($given['how'] ?? 'all') !== 'sample' => [],
            default => Asking::sample(
                $round,
                isset($given['size']) ? (int) $given['size'] : null,
                isset($given['confidence']) ? (int) $given['confidence'] / 100 : null,
                isset($given['share']) ? (float) $given['share'] / 100 : null,
                isset($given['seed']) ? (int) $given['seed'] : null,
            ),
        };
        $rows = $compare['sample'] ?? array_sum(array_map(fn ($p) => $p->feedRows, $page->tallied()));
        try {
            Asking::work($migration, $round, $given['what'] === 'totals', $compare, (int) $rows);
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }

        return back();
    }
}
