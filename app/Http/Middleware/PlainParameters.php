<?php

namespace App\Http\Middleware;

use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

/** A parameter is a text in UTF-8 unless its route says that it is a list of such, and how deep. */
final class PlainParameters
{
    public function handle(Request $request, Closure $next): Response
    {
        $lists = $request->route()->getAction('lists') ?? [];
        foreach ([$request->query->all(), $request->request->all()] as $given) {
            foreach ($given as $name => $value) {
                abort_if(self::depth($value) > ($lists[$name] ?? 0) || ! self::isText($name, $value), 400);
            }
        }

        return $next($request);
    }

    /** The pages are in UTF-8, and so is what their forms send; the database takes nothing else. */
    private static function isText(int|string $name, mixed $value): bool
    {
        if (is_array($value)) {
            return mb_check_encoding((string) $name)
                && array_filter(array_map(self::isText(...), array_keys($value), $value), fn (bool $is) => ! $is) === [];
        }

        return mb_check_encoding((string) $name) && (! is_string($value) || mb_check_encoding($value));
    }

    private static function depth(mixed $value): int
    {
        return is_array($value) ? 1 + max([0, ...array_map(self::depth(...), array_values($value))]) : 0;
    }
}
