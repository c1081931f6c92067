<?php

namespace App\People;

use App\Models\Audit;
use App\Models\Invitation;
use App\Models\Membership;
use App\Models\User;
use Illuminate\Support\Facades\DB;

/** Accounts of the installation. It always keeps an administrator who can log in. */
final class Accounts
{
    /** How often it is tried where another is in the way at the same moment. */
    private const TIMES = 5;

    /** @return array{User, string} the person, and the path of the link */
    public static function invite(string $name, string $email, bool $isAdministrator): array
    {
        return DB::transaction(function () use ($name, $email, $isAdministrator) {
            if (User::addressed($email)->lockForUpdate()->exists()) {
                throw new \DomainException('There is an account of this address already.');
            }
            $user = User::query()->create([
                'name' => $name,
                'email' => trim($email),
                'password' => null,
                'is_administrator' => $isAdministrator,
            ]);
            Audit::note(null, "invited $user->email", ['administrator' => $isAdministrator]);

            return [$user, Invitation::link($user)];
        }, self::TIMES);
    }

    /** Nothing they began stays open, and no link of theirs works. */
    public static function disable(User $user): void
    {
        self::keeping($user, function (User $user) {
            $user->update(['disabled_at' => now()]);
            Sessions::endAll($user);
            Invitation::query()->where('user_id', $user->id)->delete();
            Audit::note(null, "disabled $user->email");
        });
    }

    public static function enable(User $user): void
    {
        $user->update(['disabled_at' => null]);
        Audit::note(null, "enabled $user->email");
    }

    /** The password they have ends with their sessions; the link sets another. */
    public static function reset(User $user): string
    {
        return DB::transaction(function () use ($user) {
            if ($user->disabled_at !== null) {
                throw new \DomainException("$user->email is disabled: enable the account first.");
            }
            $user->update(['password' => null]);
            Sessions::endAll($user);
            Audit::note(null, "reset the password of $user->email");

            return Invitation::link($user);
        }, self::TIMES);
    }

    public static function endSessions(User $user): void
    {
        Sessions::endAll($user);
        Audit::note(null, "ended all sessions of $user->email");
    }

    /** For one whose device is lost, with the codes for that day. */
    public static function withoutSecondFactor(User $user): void
    {
        DB::transaction(function () use ($user) {
            SecondFactor::remove($user);
            Sessions::endAll($user);
        });
    }

    public static function administrator(User $user, bool $is): void
    {
        self::keeping($user, function (User $user) use ($is) {
            $user->update(['is_administrator' => $is]);
            Audit::note(null, ($is ? 'made an administrator of ' : 'took the administration from ').$user->email);
        });
    }

    private static function keeping(User $user, \Closure $act): void
    {
        DB::transaction(function () use ($user, $act) {
            // One after the other, or two could take it from each other.
            $all = User::query()->where('is_administrator', true)->orderBy('id')->lockForUpdate()->get();
            $act(User::query()->whereKey($user->id)->lockForUpdate()->firstOrFail());
            $left = User::query()->where('is_administrator', true)->whereNull('disabled_at')->whereNotNull('password')->exists();
            if (! $left && $all->isNotEmpty()) {
                throw new \DomainException('The installation keeps one administrator at least who can log in.');
            }
            foreach (Membership::query()->where('user_id', $user->id)->where('role', 'lead')->pluck('migration_id') as $migration) {
                Crew::hasLead((int) $migration);
            }
        }, self::TIMES);
    }
}
