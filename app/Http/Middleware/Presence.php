<?php

namespace App\Http\Middleware;

use App\Http\WholePage;
use App\Models\User;
use App\People\Sessions;
use Closure;
use Illuminate\Http\Request;
use Illuminate\Session\Store;
use Illuminate\Support\Facades\Auth;
use Symfony\Component\HttpFoundation\Response;

/** Ends sessions whose time is over, or that were ended from elsewhere; asks for a second factor where one is due. */
final class Presence
{
    /** What a page asks at intervals says so: that somebody has it open does not keep them logged in. */
    public const BY_ITSELF = 'X-By-Itself';

    /** Where somebody without the second factor their role needs can go. */
    private const OPEN = ['account/second', 'account/second/*', 'logout'];

    public function handle(Request $request, Closure $next): Response
    {
        // What a page asks by itself must not take the news meant for the page that comes.
        $session = $request->session();
        if ($session instanceof Store && ($request->hasHeader('HX-Request') || $request->is('m/*/draft'))) {
            $session->reflash();
        }
        $user = $request->user();

        return $user instanceof User ? $this->admit($request, $user, $next) : $next($request);
    }

    private function admit(Request $request, User $user, Closure $next): Response
    {
        [$open, $rules] = Sessions::of($request);
        if ($open === null || $user->disabled_at !== null) {
            Auth::logout();
            $session = $request->session();
            $session->invalidate();
            $session->regenerateToken();
            $session->flash('told', 'Your session has ended. Log in again.');

            return WholePage::to($request, '/login');
        }
        if (! $request->hasHeader(self::BY_ITSELF)) {
            Sessions::seen($open);
        }
        if (! $user->hasSecondFactor() && ! $request->is(...self::OPEN) && $rules->asksSecondFactorOf($user)) {
            $request->session()->flash('refused', 'Your role needs a second factor: set one up first.');

            return WholePage::to($request, '/account/second');
        }

        return $next($request);
    }
}
