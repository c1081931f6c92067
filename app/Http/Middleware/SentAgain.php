<?php

namespace App\Http\Middleware;

use App\Looking\Looks;
use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

/** A form that a page of ours sends again was filled in on the page before: that is where its answer leads back to. */
final class SentAgain
{
    public function handle(Request $request, Closure $next): Response
    {
        if (! $request->isMethodSafe() && $request->has(Looks::AGAIN)) {
            $request->headers->remove('referer');
        }

        return $next($request);
    }
}
