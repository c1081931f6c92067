<?php

namespace App\Http\Controllers;

use App\Files\PageAnswers;
use App\Files\Questions;
use App\Models\Migration;
use App\Models\User;
use App\View\Page;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** The page of the client's people: what they have to answer, in their words. */
final class QuestionsController extends Controller
{
    public function index(Request $request, Migration $migration): View
    {
        $this->authorize('repair', $migration);
        $round = Page::of($migration, 'rejects')->round;
        $user = $request->user();
        $questions = $round === null || ! $user instanceof User ? null : Questions::of($round, $user);

        return view('questions.index', [
            'm' => $migration,
            'round' => $round,
            'questions' => $questions?->all() ?? [],
            'files' => $questions?->files() ?? collect(),
        ]);
    }

    public function store(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('repair', $migration);
        $data = $request->validate([
            'alike' => 'required|string|max:300', 'answers' => 'required|array|max:100', 'answers.*' => 'nullable|string|max:4000',
        ]);
        $round = Page::of($migration, 'rejects')->round ?? abort(404);
        $user = $request->user();
        abort_unless($user instanceof User, 403);
        $question = collect(Questions::of($round, $user)->all())->first(fn ($q) => $q->group->id() === $data['alike']) ?? abort(404);
        try {
            $n = PageAnswers::give($round, $user, $question, $data['answers']);
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage())->withInput();
        }

        return back()->with('told', $n === 1 ? 'One answer is sent. Thank you.' : "$n answers are sent. Thank you.");
    }
}
