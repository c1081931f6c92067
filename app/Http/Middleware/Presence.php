<?php

namespace App\Http\Middleware;

use App\Models\User;
use Closure;
use Illuminate\Http\Request;
use Illuminate\Session\Store;
use Illuminate\Support\Facades\Auth;
use Symfony\Component\HttpFoundation\Response;

/** Ends sessions whose time is over, whose owner was disabled, or that were ended from elsewhere. */
final class Presence
{
    public function handle(Request $request, Closure $next): Response
    {
        // What a page asks by itself must not take the news meant for the page that comes.
        $session = $request->session();
        if ($session instanceof Store && ($request->hasHeader('HX-Request') || $request->is('m/*/draft'))) {
            $session->reflash();
        }
        $user = $request->user();
        if ($user instanceof User) {
            $began = $request->session()->get('began');
            if ($began === null) {
                self::begin($request, $user);
            } elseif (
                $user->disabled_at !== null
                || $request->session()->get('era') !== $user->era
                || $began + 3600 * (int) config('session.longest') < now()->timestamp
            ) {
                Auth::logout();
                $request->session()->invalidate();
                $request->session()->regenerateToken();

                return redirect()->guest('/login')->with('told', 'Your session has ended. Log in again.');
            }
        }

        return $next($request);
    }

    public static function begin(Request $request, User $user): void
    {
        $request->session()->put(['began' => now()->timestamp, 'era' => $user->era]);
    }
}
