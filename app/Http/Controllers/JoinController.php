<?php

namespace App\Http\Controllers;

use App\Models\Audit;
use App\Models\Invitation;
use App\People\Passwords;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Somebody who was invited, or whose password was reset, sets one of their own. */
final class JoinController extends Controller
{
    public function show(string $token): View
    {
        return view('auth.join', ['invitation' => Invitation::of($token), 'token' => $token]);
    }

    public function join(Request $request, string $token): RedirectResponse
    {
        $invitation = Invitation::of($token);
        if ($invitation === null) {
            return redirect("/join/$token");
        }
        $user = $invitation->user;
        $data = $request->validate([
            'name' => 'required|string|max:100',
            'zone' => 'nullable|string|max:60',
            'password' => ['required', 'string', 'confirmed', new Passwords($user)],
        ], ['password.confirmed' => 'The two passwords differ.']);
        // Of two who send the same link at once one takes it.
        if (! $invitation->take($data['name'], $data['password'], $data['zone'] ?? '')) {
            return redirect("/join/$token");
        }
        Audit::note(null, 'set a password by a link', ['of' => $user->email]);

        return LoginController::enter($request, $user->refresh());
    }
}
