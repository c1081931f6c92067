<?php

namespace App\Http\Controllers;

use App\Models\Audit;
use App\Models\User;
use App\People\Passwords;
use App\People\SecondStep;
use App\People\Sessions;
use App\People\Throttle;
use App\Support\Address;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\Hash;
use Illuminate\Validation\ValidationException;
use Illuminate\View\View;

final class LoginController extends Controller
{
    public function show(): View
    {
        return view('auth.login');
    }

    public function login(Request $request, Throttle $throttle): RedirectResponse
    {
        $given = $request->validate(['email' => 'required|string|max:254', 'password' => 'required|string|max:1000']);
        $normal = Address::normal($given['email']);
        $user = User::addressed($given['email'])->first();
        $ip = (string) $request->ip();
        $wait = $throttle->wait($user, $normal, $ip);
        if ($wait > 0) {
            $this->refuse("Too many tries. Wait $wait seconds.");
        }
        // One verification, whether there is such an account or not.
        $isRight = Passwords::isRight($user, $given['password']);
        if (! $isRight || $user === null || $user->disabled_at !== null) {
            $throttle->failed($user, $normal, $ip);
            Audit::note(null, 'login failed', ['address' => mb_substr($normal, 0, 100)]);
            $this->refuse('This e-mail address and password do not belong together.');
        }
        if (Hash::needsRehash((string) $user->password)) {
            $user->update(['password' => $given['password']]);
        }
        if (! $user->hasSecondFactor()) {
            $throttle->passed($user);
        }

        return self::enter($request, $user);
    }

    /** In, under a new name of the session; or on to the second factor, where there is one. */
    public static function enter(Request $request, User $user): RedirectResponse
    {
        $request->session()->regenerate();
        if ($user->hasSecondFactor()) {
            SecondStep::after($request, $user);

            return redirect('/login/second');
        }

        return self::open($request, $user, 'password');
    }

    public static function open(Request $request, User $user, string $by): RedirectResponse
    {
        if (! Sessions::begin($request, $user)) {
            return redirect('/login')->with('told', 'The account was changed in the meantime. Log in again.');
        }
        Auth::login($user);
        $request->session()->regenerate();
        Audit::note(null, 'logged in', ['by' => $by]);

        return redirect()->intended('/');
    }

    public function logout(Request $request): RedirectResponse
    {
        Audit::note(null, 'logged out');
        [$open] = Sessions::of($request);
        if ($open !== null) {
            Sessions::end($open);
        }
        Auth::logout();
        $request->session()->invalidate();
        $request->session()->regenerateToken();

        return redirect('/login');
    }

    private function refuse(string $why): never
    {
        throw ValidationException::withMessages(['email' => $why]);
    }
}
