<?php

namespace App\Looking;

use App\Support\Apart;
use App\Support\ApartEnded;
use App\Support\Bounds;
use App\Support\Plain;
use Baggage\Core\Reading\ReadingError;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\RateLimiter;
use Illuminate\Support\Str;

/**
 * Has foreign bytes looked into for a page: in a process of its own, and for no longer than a page may wait in all. What takes longer is
 * looked at by a worker, and kept until the page asks for it again.
 */
final class Looks
{
    /** Seconds what a worker saw is kept for the page, and after which it is asked anew where the worker says nothing. */
    private const KEPT = 600;

    /** Seconds below which it is not worth beginning. */
    private const LEAST = 0.5;

    /** Long looks of one person within so many seconds. */
    private const AT_ONCE = 6;

    private const WITHIN = 300;

    /** Of the request: seconds it has waited so far. */
    private const WAITED = 'look.waited';

    /** Of what is sent once more until it could be done: whatever was seen for it is seen for it alone. */
    public const AGAIN = 'looking';

    /**
     * @param  class-string<Looker>  $who
     * @param  array<string, mixed>  $given
     * @param  bool  $byWorker  where it does something that is not to be ended half way, because a page waits no longer
     *
     * @throws ReadingError|LookGoing
     */
    public static function ask(string $who, array $given, bool $byWorker = false): mixed
    {
        $answer = match (true) {
            ! config('baggage.apart.on') => self::done($who, $given),
            app()->runningInConsole() && ! app()->runningUnitTests() => self::long($who, $given),
            default => self::known($who, $given, $byWorker),
        };

        return array_key_exists('is', $answer) ? $answer['is'] : throw ReadingError::broken((string) $answer['refused']);
    }

    /**
     * What is done, in whatever process.
     *
     * @param  class-string<Looker>  $who
     * @param  array<string, mixed>  $given
     * @return array<string, mixed> "is", or "refused" with why; can be written as JSON
     */
    public static function done(string $who, array $given): array
    {
        try {
            return ['is' => $who::look($given)];
        } catch (ReadingError $e) {
            return ['refused' => Plain::said($e->getMessage())];
        }
    }

    /**
     * In a process of its own.
     *
     * @param  class-string<Looker>  $who
     * @param  array<string, mixed>  $given
     * @return array<string, mixed> as done()
     *
     * @throws ApartEnded
     */
    public static function apart(string $who, array $given, Bounds $bounds): array
    {
        $answer = Apart::run(['baggage:look', $who], json_encode($given, JSON_THROW_ON_ERROR), $bounds);

        return json_decode($answer, true, 512, JSON_THROW_ON_ERROR);
    }

    /**
     * In a process of its own, for as long as a worker may wait.
     *
     * @param  class-string<Looker>  $who
     * @param  array<string, mixed>  $given
     * @return array<string, mixed> as done()
     */
    public static function long(string $who, array $given): array
    {
        try {
            return self::apart($who, $given, Bounds::of('look_long'));
        } catch (ApartEnded $e) {
            return ['refused' => $e->getMessage()];
        }
    }

    /** @param  array<string, mixed>|null  $answer  as done(); null while a worker looks */
    public static function keep(string $key, ?array $answer): void
    {
        Cache::put("look:$key", ['answer' => $answer], self::KEPT);
    }

    /**
     * @param  class-string<Looker>  $who
     * @param  array<string, mixed>  $given
     * @return array<string, mixed> as done()
     *
     * @throws LookGoing
     */
    private static function known(string $who, array $given, bool $byWorker): array
    {
        // The bytes of a file are the same each time; what is somewhere else is not.
        $again = isset($given['path']) ? '' : self::again();
        $key = hash('sha256', $who.$again.json_encode($given, JSON_THROW_ON_ERROR));
        $kept = Cache::get("look:$key");
        if ($kept !== null) {
            $kept['answer'] !== null && $again === '' && ! isset($given['path']) ? Cache::forget("look:$key") : null;

            return $kept['answer'] ?? throw LookGoing::on();
        }
        $bounds = Bounds::of('look');
        $waited = (float) request()->attributes->get(self::WAITED, 0);
        $left = (float) $bounds->seconds - $waited;
        $began = microtime(true);
        try {
            return $byWorker || $left < self::LEAST
                ? throw ApartEnded::slow(0)
                : self::apart($who, $given, new Bounds($left, $bounds->memory, $bounds->answer));
        } catch (ApartEnded $e) {
            if (! $e->isSlow || DB::transactionLevel() > 0) {
                // What is asked for in a transaction would go with it.
                return ['refused' => $e->getMessage()];
            }
            // What was not begun may be quick, and is not counted.
            $isCounted = ! $byWorker && $left >= self::LEAST;
            if ($isCounted && ! RateLimiter::attempt('looks:'.Auth::id(), self::AT_ONCE, fn () => true, self::WITHIN)) {
                return ['refused' => 'A worker looks at several things for you already, and each takes long. Wait a few minutes.'];
            }
            self::keep($key, null);
            LookLonger::ask($key, $who, $given);
            throw LookGoing::on();
        } finally {
            request()->attributes->set(self::WAITED, $waited + microtime(true) - $began);
        }
    }

    /** What was kept for a page and is old is a client's still: the store forgets it only when it is asked for it again. */
    public static function sweep(): void
    {
        foreach (glob(config('cache.stores.file.path').'/*/*/*') ?: [] as $path) {
            // The store writes when it ends before what it keeps.
            $ends = (string) @file_get_contents($path, false, null, 0, 10);
            if (ctype_digit($ends) && (int) $ends < time()) {
                @unlink($path);
            }
        }
    }

    /** @return string by what a request is known that is sent again; '' for a page that is only read */
    public static function again(): string
    {
        $request = request();
        if ($request->isMethodSafe()) {
            return '';
        }
        if (! $request->attributes->has(self::AGAIN)) {
            $sent = $request->input(self::AGAIN);
            $request->attributes->set(self::AGAIN, is_string($sent) && Str::isUuid($sent) ? $sent : (string) Str::uuid());
        }

        return (string) $request->attributes->get(self::AGAIN);
    }
}
