<?php

namespace App\Http\Controllers;

use App\Http\Middleware\Presence;
use App\Models\Audit;
use App\Models\Migration;
use App\Models\User;
use App\People\Passwords;
use App\People\Throttle;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Validation\ValidationException;

/** Somebody's own account. */
final class AccountController extends Controller
{
    public function show(Request $request): View
    {
        return view('accounts.own', ['user' => $this->own($request)]);
    }

    public function name(Request $request): RedirectResponse
    {
        $user = $this->own($request);
        $user->update($request->validate(['name' => 'required|string|max:100']));

        return back()->with('told', 'Kept.');
    }

    public function password(Request $request, Throttle $throttle): RedirectResponse
    {
        $user = $this->own($request);
        $this->current($request, $throttle);
        $data = $request->validate(
            ['password' => ['required', 'string', 'confirmed', new Passwords($user)]],
            ['password.confirmed' => 'The two passwords differ.'],
        );
        $user->update(['password' => $data['password'], 'era' => $user->era + 1]);
        Audit::note(null, 'changed the own password');

        return $this->stay($request, $user, 'The password is changed; every other session of yours has ended.');
    }

    public function leaveOthers(Request $request, Throttle $throttle): RedirectResponse
    {
        $user = $this->own($request);
        $this->current($request, $throttle);
        $user->update(['era' => $user->era + 1]);
        Audit::note(null, 'ended the own sessions elsewhere');

        return $this->stay($request, $user, 'Every other session of yours has ended.');
    }

    private function own(Request $request): User
    {
        $user = $request->user();
        $this->authorize('viewAny', Migration::class);

        return $user instanceof User ? $user : abort(403);
    }

    /** Tries at it count as those at the door do. */
    private function current(Request $request, Throttle $throttle): void
    {
        $user = $this->own($request);
        $given = (string) $request->validate(['current' => 'required|string|max:1000'])['current'];
        $ip = (string) $request->ip();
        $wait = $throttle->wait($user, $user->address, $ip);
        if ($wait > 0) {
            throw ValidationException::withMessages(['current' => "Too many tries. Wait $wait seconds."]);
        }
        if (! Passwords::isRight($user, $given)) {
            $throttle->failed($user, $user->address, $ip);
            throw ValidationException::withMessages(['current' => 'The current password is another.']);
        }
        $throttle->passed($user);
    }

    private function stay(Request $request, User $user, string $told): RedirectResponse
    {
        $request->session()->regenerate();
        Presence::begin($request, $user->refresh());

        return back()->with('told', $told);
    }
}
