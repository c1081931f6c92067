<?php

namespace App\Http\Controllers;

use App\Http\Middleware\Presence;
use App\Models\Audit;
use App\Models\User;
use App\People\Passwords;
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
        $throttle->passed($user);
        if (Hash::needsRehash((string) $user->password)) {
            $user->update(['password' => $given['password']]);
        }
        self::enter($request, $user);

        return redirect()->intended('/');
    }

    /** A session of their own, under a new name. */
    public static function enter(Request $request, User $user): void
    {
        Auth::login($user);
        $request->session()->regenerate();
        Presence::begin($request, $user);
        Audit::note(null, 'logged in');
    }

    public function logout(Request $request): RedirectResponse
    {
        Audit::note(null, 'logged out');
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
