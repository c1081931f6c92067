<?php

namespace App\Http\Middleware;

use App\Models\Audit;
use App\Models\Migration;
use Closure;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Cache;
use Symfony\Component\HttpFoundation\Response;

/** Writes down what was refused and what was taken away as a file, on whatever route. */
final class Witness
{
    public function handle(Request $request, Closure $next): Response
    {
        $response = $next($request);
        if ($request->user() === null) {
            return $response;
        }
        $what = match (true) {
            $response->getStatusCode() === 403 => 'was refused',
            str_starts_with((string) $response->headers->get('Content-Disposition'), 'attachment') => 'took a file',
            default => null,
        };
        if ($what !== null && ! $this->isRepeat($request)) {
            $migration = $request->route('migration');
            Audit::note($migration instanceof Migration ? $migration->id : null, $what, [
                'request' => mb_substr("{$request->method()} {$request->path()}", 0, 200),
                'file' => $this->file($response),
            ]);
        }

        return $response;
    }

    /** What a page asks by itself at intervals is written down once a minute. */
    private function isRepeat(Request $request): bool
    {
        $key = 'witness:'.hash('sha256', "{$request->user()?->getAuthIdentifier()} {$request->path()}");

        return $request->hasHeader(Presence::BY_ITSELF) && ! Cache::add($key, true, 60);
    }

    private function file(Response $response): ?string
    {
        preg_match('/filename="?([^";]+)/', (string) $response->headers->get('Content-Disposition'), $m);

        return $m[1] ?? null;
    }
}
