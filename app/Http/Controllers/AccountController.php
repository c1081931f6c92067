<?php

namespace App\Http\Controllers;

use App\Models\Audit;
use App\Models\LoginSession;
use App\Models\Migration;
use App\Models\User;
use App\People\Confirmation;
use App\People\Passwords;
use App\People\Sessions;
use App\View\Tables\PeopleTables;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** Somebody's own account. */
final class AccountController extends Controller
{
    public function show(Request $request): View|StreamedResponse
    {
        $user = $this->own($request);

        return $this->screen('accounts.own', [
            'user' => $user,
            'sessions' => PeopleTables::sessions($request, Sessions::open($user), false),
            'here' => $this->here($request)->id,
            'zones' => \DateTimeZone::listIdentifiers(),
        ]);
    }

    public function name(Request $request): RedirectResponse
    {
        $user = $this->own($request);
        $user->update($request->validate(['name' => 'required|string|max:100', 'zone' => 'sometimes|required|timezone:all']));

        return back()->with('told', 'Kept.');
    }

    public function password(Request $request, Confirmation $confirmation): RedirectResponse
    {
        $user = $this->own($request);
        $confirmation->askPassword($request, $user);
        $data = $request->validate(
            ['password' => ['required', 'string', 'confirmed', new Passwords($user)]],
            ['password.confirmed' => 'The two passwords differ.'],
        );
        $user->update(['password' => $data['password']]);
        Sessions::endAll($user, $this->here($request));
        Audit::note(null, 'changed the own password');
        $request->session()->regenerate();

        return back()->with('told', 'The password is changed; every other session of yours has ended.');
    }

    /** Whoever confirmed who they are need not do so again for a while. */
    public function confirm(Request $request): RedirectResponse
    {
        $this->own($request);
        $this->confirmed($request);

        return back()->with('told', 'Confirmed for '.Confirmation::MINUTES.' minutes.');
    }

    public function leaveOthers(Request $request): RedirectResponse
    {
        $user = $this->own($request);
        $this->confirmed($request);
        Sessions::endAll($user, $this->here($request));
        Audit::note(null, 'ended the own sessions elsewhere');

        return back()->with('told', 'Every other session of yours has ended.');
    }

    public function leave(Request $request, LoginSession $session): RedirectResponse
    {
        $user = $this->own($request);
        abort_unless($session->user_id === $user->id, 404);
        $this->confirmed($request);
        Sessions::end($session);
        Audit::note(null, 'ended a session of the own', ['where' => $session->ip, 'began' => $session->began_at->toIso8601String()]);

        return back()->with('told', 'That session has ended.');
    }

    private function here(Request $request): LoginSession
    {
        return Sessions::of($request)[0] ?? abort(403);
    }

    private function own(Request $request): User
    {
        $user = $request->user();
        $this->authorize('viewAny', Migration::class);

        return $user instanceof User ? $user : abort(403);
    }
}
