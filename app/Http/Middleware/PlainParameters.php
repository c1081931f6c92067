<?php

namespace App\Http\Middleware;

use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

/** A parameter is a text unless its route says that it is a list, and how deep. */
final class PlainParameters
{
    public function handle(Request $request, Closure $next): Response
    {
        $lists = $request->route()->getAction('lists') ?? [];
        foreach ($request->query->all() + $request->request->all() as $name => $value) {
            abort_if(self::depth($value) > ($lists[$name] ?? 0), 400);
        }

        return $next($request);
    }

    private static function depth(mixed $value): int
    {
        return is_array($value) ? 1 + max([0, ...array_map(self::depth(...), array_values($value))]) : 0;
    }
}
