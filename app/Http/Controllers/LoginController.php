<?php

namespace App\Http\Controllers;

use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\RateLimiter;
use Illuminate\Validation\ValidationException;
use Illuminate\View\View;

final class LoginController extends Controller
{
    private const TRIES_PER_MINUTE = 5;

    public function show(): View
    {
        return view('auth.login');
    }

    public function login(Request $request): RedirectResponse
    {
        $credentials = $request->validate(['email' => 'required|string', 'password' => 'required|string']);
        $key = 'login:'.mb_strtolower($credentials['email']).'|'.$request->ip();
        if (RateLimiter::tooManyAttempts($key, self::TRIES_PER_MINUTE)) {
            throw ValidationException::withMessages([
                'email' => 'Too many tries. Wait '.RateLimiter::availableIn($key).' seconds.',
            ]);
        }
        if (! Auth::attempt($credentials)) {
            RateLimiter::hit($key);
            throw ValidationException::withMessages([
                'email' => 'This e-mail address and password do not belong together.',
            ]);
        }
        RateLimiter::clear($key);
        $request->session()->regenerate();

        return redirect()->intended('/');
    }

    public function logout(Request $request): RedirectResponse
    {
        Auth::logout();
        $request->session()->invalidate();
        $request->session()->regenerateToken();

        return redirect('/login');
    }
}
