<?php

namespace App\Http\Middleware;

use App\Looking\Waiting;
use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

/** A form that a page of ours sends again was filled in on the page before: that is where its answer leads back to. */
final class SentAgain
{
    public function handle(Request $request, Closure $next): Response
    {
        $page = $request->isMethodSafe() ? null : $request->input(Waiting::BACK);
        if (is_string($page) && preg_match('~^/(?![/\\\\])[\x21-\x7E]*$~', $page) === 1) {
            $request->headers->set('referer', $request->getSchemeAndHttpHost().$page);
        }

        return $next($request);
    }
}
