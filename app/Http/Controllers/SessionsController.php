<?php

namespace App\Http\Controllers;

use App\Models\Audit;
use App\Models\LoginSession;
use App\People\DoorRules;
use App\People\Sessions;
use App\View\Tables\PeopleTables;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Gate;
use Illuminate\Validation\Rule;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** Who is logged in, for how long that may be, and of whom a second factor is asked. */
final class SessionsController extends Controller
{
    public function index(Request $request): View|StreamedResponse
    {
        Gate::authorize('administer');

        [$here, $rules] = Sessions::of($request);

        return $this->screen('accounts.sessions', [
            'rules' => $rules,
            'kinds' => DoorRules::kinds(),
            'sessions' => PeopleTables::sessions($request, Sessions::open(), true),
            'here' => $here?->id,
        ]);
    }

    public function rules(Request $request): RedirectResponse
    {
        Gate::authorize('administer');
        $data = $request->validate([
            'idle' => ['required', 'integer', 'between:'.implode(',', DoorRules::IDLE)],
            'longest' => ['required', 'integer', 'between:'.implode(',', DoorRules::LONGEST)],
            'second' => 'array',
            'second.*' => ['string', Rule::in(DoorRules::kinds())],
        ]);
        $this->confirmed($request);
        (new DoorRules((int) $data['idle'], (int) $data['longest'], array_values($data['second'] ?? [])))
            ->keep($request->input('was'));

        return back()->with('told', 'Kept. It holds for everybody from now on.');
    }

    public function end(LoginSession $session): RedirectResponse
    {
        Gate::authorize('administer');
        Sessions::end($session);
        Audit::note(null, "ended a session of {$session->user->email}", [
            'where' => $session->ip,
            'began' => $session->began_at->toIso8601String(),
        ]);

        return back()->with('told', "That session of {$session->user->email} has ended.");
    }
}
