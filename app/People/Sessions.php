<?php

namespace App\People;

use App\Models\LoginSession;
use App\Models\User;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;

/** Who is logged in where. A session of the browser holds a token; what it opens stands in the database and can be ended there. */
final class Sessions
{
    private const KEY = 'session_token';

    /** Seconds within which it is not noted again that somebody was seen. */
    private const GRAIN = 30;

    /**
     * Begins one in the request's session.
     *
     * @param  User  $user  as they were when they proved who they are
     * @return bool false where the account was disabled or its password changed since
     */
    public static function begin(Request $request, User $user): bool
    {
        return DB::transaction(function () use ($request, $user) {
            $now = User::query()->whereKey($user->id)->lockForUpdate()->first();
            if ($now === null || $now->disabled_at !== null || $now->password !== $user->password) {
                return false;
            }
            self::over(DoorRules::now())->delete();
            $token = bin2hex(random_bytes(32));
            LoginSession::query()->create([
                'user_id' => $user->id,
                'token' => self::kept($token),
                'ip' => $request->ip(),
                'agent' => mb_substr(mb_scrub((string) $request->userAgent()), 0, 250),
                'began_at' => now(),
                'seen_at' => now(),
            ]);
            $request->session()->put(self::KEY, $token);

            return true;
        });
    }

    /**
     * The one a request is made in, and the rules as they are now: every page asks, so it is one query.
     *
     * @return array{LoginSession|null, DoorRules} null where it is over or was ended
     */
    public static function of(Request $request): array
    {
        $token = $request->session()->get(self::KEY);
        $found = is_string($token) ? LoginSession::query()
            ->where('token', self::kept($token))
            ->select('login_sessions.*')
            ->selectSub(DoorRules::kept(), 'rules')
            ->first() : null;
        $rules = DoorRules::read($found?->getAttribute('rules'));
        $isOver = $found === null
            || $found->user_id !== $request->user()?->getAuthIdentifier()
            || $found->seen_at->addMinutes($rules->idleMinutes)->isPast()
            || $found->began_at->addHours($rules->longestHours)->isPast();

        return [$isOver ? null : $found, $rules];
    }

    /** Its owner did something in it. */
    public static function seen(LoginSession $session): void
    {
        if ($session->seen_at->diffInSeconds(now()) >= self::GRAIN) {
            LoginSession::query()->whereKey($session->id)->update(['seen_at' => now()]);
        }
    }

    /** @return Collection<int, LoginSession> those that go on, the last seen first */
    public static function open(?User $user = null): Collection
    {
        $rules = DoorRules::now();

        return LoginSession::query()
            ->when($user !== null, fn ($q) => $q->where('user_id', $user?->id))
            ->where('seen_at', '>=', now()->subMinutes($rules->idleMinutes))
            ->where('began_at', '>=', now()->subHours($rules->longestHours))
            ->with('user')
            ->orderByDesc('seen_at')
            ->get();
    }

    public static function end(LoginSession $session): void
    {
        $session->delete();
    }

    /** @param  LoginSession|null  $but  the one that goes on */
    public static function endAll(User $user, ?LoginSession $but = null): void
    {
        LoginSession::query()->where('user_id', $user->id)->when($but !== null, fn ($q) => $q->whereKeyNot($but?->id))->delete();
    }

    /** @return Builder<LoginSession> */
    private static function over(DoorRules $rules): Builder
    {
        return LoginSession::query()
            ->where('seen_at', '<', now()->subMinutes($rules->idleMinutes))
            ->orWhere('began_at', '<', now()->subHours($rules->longestHours));
    }

    private static function kept(string $token): string
    {
        return hash('sha256', $token, true);
    }
}
