<?php

namespace App\People;

use App\Models\User;
use Illuminate\Cache\RateLimiter;

/** Tries at passwords: counted per account over all addresses they come from, and per address over all accounts. */
final class Throttle
{
    private const PER_ACCOUNT = 10;

    private const PER_PLACE = 30;

    private const SECONDS = 300;

    /** Tries at the second factor of an account: whoever makes them has its password already. */
    private const CODES = 10;

    private const CODE_SECONDS = 3600;

    public function __construct(private readonly RateLimiter $limiter)
    {
    }

    /** @return int seconds to wait before the next try; 0 where it may be now */
    public function wait(?User $user, string $normal, string $ip): int
    {
        $wait = 0;
        foreach ($this->keys($user, $normal, $ip) as $key => $most) {
            if ($this->limiter->tooManyAttempts($key, $most)) {
                $wait = max($wait, $this->limiter->availableIn($key));
            }
        }

        return $wait;
    }

    public function failed(?User $user, string $normal, string $ip): void
    {
        foreach (array_keys($this->keys($user, $normal, $ip)) as $key) {
            $this->limiter->hit($key, self::SECONDS);
        }
    }

    public function passed(User $user): void
    {
        $this->limiter->clear("login:user:$user->id");
    }

    public function waitForCode(User $user): int
    {
        $key = "login:code:$user->id";

        return $this->limiter->tooManyAttempts($key, self::CODES) ? $this->limiter->availableIn($key) : 0;
    }

    public function codeFailed(User $user): void
    {
        $this->limiter->hit("login:code:$user->id", self::CODE_SECONDS);
    }

    public function codePassed(User $user): void
    {
        $this->limiter->clear("login:code:$user->id");
        $this->passed($user);
    }

    /** @return array<string, int> key → tries allowed; an account there is not has a limit of its own, as one there is */
    private function keys(?User $user, string $normal, string $ip): array
    {
        return [
            $user === null ? 'login:none:'.hash('sha256', $normal) : "login:user:$user->id" => self::PER_ACCOUNT,
            'login:from:'.hash('sha256', $ip) => self::PER_PLACE,
        ];
    }
}
