<?php

namespace App\Http\Controllers;

use App\Decisions\AnswerChanges;
use App\Files\AnswerBook;
use App\Looking\Aside;
use App\Models\Answer;
use App\Models\AnswerState;
use App\Models\Load;
use App\Models\Migration;
use App\Rejects\Proposals;
use App\Rejects\Proposed;
use App\Rejects\ProposedKind;
use App\Support\Amount;
use App\View\AnswerOpened;
use App\View\Page;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;

/** What came back from the client: what was changed in it is taken in, or let be. */
final class AnswersController extends Controller
{
    public function store(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('repair', $migration);
        $most = intdiv((int) config('baggage.upload_limit'), 1024);
        $request->validate(Aside::rules('answer', $most) + ['sent_by' => 'nullable|string|max:190']);
        $round = Page::of($migration, 'rejects')->round ?? abort(404);
        $sent = Aside::of($request, 'answer');
        $answer = AnswerBook::begin($round, $sent->path, $sent->name, $request->string('sent_by')->toString());
        $work = AnswerBook::read($answer);
        if ($answer->refresh()->state === AnswerState::Refused) {
            $work->update(['seen' => true]);

            return back()->with('refused', "$answer->name: $answer->told");
        }

        if ($request->user()?->roleIn($migration)?->isOfTheClient()) {
            $cells = Amount::of((int) ($answer->found['change'] ?? 0), 'cell');
            $told = match ($answer->state) {
                AnswerState::Listed => "It is here, with $cells changed. Thank you.",
                AnswerState::Asking => 'It is here. Some columns are called otherwise: somebody looks at it first. Thank you.',
                default => 'It is here, and is being read. Thank you.',
            };

            return redirect("/m/$migration->id/to-answer")->with('told', $told);
        }

        return redirect("/m/$migration->id/rejects/answers/$answer->id");
    }

    public function show(Request $request, Migration $migration, Answer $answer): View
    {
        $this->authorize('view', $migration);

        return view('rejects.answer', AnswerOpened::of(Page::of($migration, 'rejects'), $answer)->data($request));
    }

    /** Which of the columns that are called otherwise is which. */
    public function columns(Request $request, Migration $migration, Answer $answer): RedirectResponse
    {
        $this->authorize('repair', $migration);
        $data = $request->validate(['is' => 'required|array|max:100', 'is.*' => 'array|max:500', 'is.*.*' => 'nullable|string|max:1000']);
        $asks = $answer->found['asks'] ?? abort(404);
        $as = [];
        foreach ($asks as $i => $of) {
            foreach ($of['unknown'] as $n => $title) {
                $is = (string) ($data['is'][$i][$n] ?? '');
                $as[$of['sheet']][$title] = in_array($is, $of['missing'], true) ? $is : '';
            }
        }
        $answer->update(['columns_as' => array_replace_recursive($answer->columns_as ?? [], $as), 'state' => AnswerState::Waiting]);
        AnswerBook::read($answer);

        return redirect("/m/$migration->id/rejects/answers/$answer->id");
    }

    /** Some changes, or all that are open and no conflict, tried together. */
    public function try(Request $request, Migration $migration, Answer $answer, Proposals $proposals): RedirectResponse
    {
        $this->authorize('repair', $migration);
        $data = $request->validate(['load' => 'required|integer', 'changes' => 'nullable|array|max:5000', 'changes.*' => 'integer']);
        $load = Load::query()->where('migration_id', $migration->id)->findOrFail($data['load']);
        $ids = isset($data['changes']) ? array_values(array_map(intval(...), $data['changes'])) : null;
        [$cells, $rows] = (new AnswerChanges($answer->id, $load->id, $ids))->open();
        if ($cells === 0) {
            return back()->with('refused', 'Nothing of it is open any more.');
        }
        $by = $answer->sent_by ?? $answer->user->name ?? '';
        try {
            $run = $proposals->try($answer->round, new Proposed(
                ProposedKind::Answers, $load->id, rows: $rows, reason: trim("answered by $by, $answer->name"), answer: $answer->id,
                changes: $ids,
            ), "/m/$migration->id/rejects/answers/$answer->id?load=$load->id");
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }

        return redirect("/m/$migration->id/dry-runs/$run->id");
    }

    public function leave(Request $request, Migration $migration, Answer $answer): RedirectResponse
    {
        $this->authorize('repair', $migration);
        $data = $request->validate(['changes' => 'required|array|max:5000', 'changes.*' => 'integer']);
        $n = AnswerChanges::leave($answer->id, array_map(intval(...), $data['changes']), (int) Auth::id());

        return back()->with('told', Amount::of($n, 'cell').' '.($n === 1 ? 'stays' : 'stay').' as '.($n === 1 ? 'it is' : 'they are').'.');
    }
}
