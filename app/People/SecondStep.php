<?php

namespace App\People;

use App\Models\User;
use Illuminate\Http\Request;

/** Between password and second factor: who gave the right password here a moment ago. Nobody is logged in by it. */
final class SecondStep
{
    private const KEY = 'second_step';

    private const MINUTES = 5;

    public static function after(Request $request, User $user): void
    {
        $request->session()->put(self::KEY, [
            'user' => $user->id,
            'password' => self::mark($user),
            'until' => now()->addMinutes(self::MINUTES)->timestamp,
        ]);
    }

    /** @return User|null null where it took too long, or the account was changed */
    public static function of(Request $request): ?User
    {
        /** @var array{user: int, password: string, until: int}|null $kept */
        $kept = $request->session()->get(self::KEY);
        if ($kept === null || $kept['until'] < now()->timestamp) {
            return null;
        }
        $user = User::query()->find($kept['user']);

        return $user?->disabled_at === null && hash_equals($kept['password'], self::mark($user)) ? $user : null;
    }

    public static function over(Request $request): void
    {
        $request->session()->forget(self::KEY);
    }

    private static function mark(?User $user): string
    {
        return hash('sha256', (string) $user?->password);
    }
}
