<?php

namespace App\People;

use App\Models\Audit;
use App\Models\Invitation;
use App\Models\Membership;
use App\Models\Migration;
use App\Models\Role;
use App\Models\User;
use App\Support\Address;
use App\Support\Meanwhile;
use Illuminate\Support\Facades\DB;

/** Who belongs to a migration. It always keeps a lead. */
final class Crew
{
    /** How often it is tried where another is in the way at the same moment. */
    private const TIMES = 5;

    /**
     * Somebody comes into the migration; one who is new here gets a link.
     *
     * @return array{User, string|null} the person, and the path of the link
     */
    public static function invite(Migration $migration, string $name, string $email, Role $role): array
    {
        return DB::transaction(function () use ($migration, $name, $email, $role) {
            $user = User::addressed($email)->lockForUpdate()->first();
            if ($user?->roleIn($migration) !== null) {
                throw new \DomainException("$user->email belongs to the migration already, as {$user->roleIn($migration)->value}.");
            }
            $user ??= User::query()->create(['name' => $name, 'email' => trim($email), 'password' => null]);
            Membership::give($user, $migration, $role);
            Audit::note($migration->id, "invited $user->email", ['role' => $role->value]);

            return [$user, self::isOnlyOf($migration, $user) ? Invitation::link($user) : null];
        }, self::TIMES);
    }

    /** Another link for somebody who has not set a password yet. */
    public static function link(Migration $migration, User $user): string
    {
        if (! self::isOnlyOf($migration, $user)) {
            throw new \DomainException("The account of $user->email is not of this migration alone: an administrator gives another link.");
        }
        Audit::note($migration->id, "made another link for $user->email");

        return Invitation::link($user);
    }

    /** Whether whoever has a link to the account comes by it to this migration and to nothing else. */
    public static function isOnlyOf(Migration $migration, User $user): bool
    {
        return $user->password === null && ! $user->is_administrator && array_keys($user->roles()) === [$migration->id];
    }

    /** @param  mixed  $shown  the role as a form showed it */
    public static function change(Migration $migration, User $user, Role $role, mixed $shown = null): void
    {
        self::keepingALead($migration, $user, function () use ($migration, $user, $role, $shown) {
            $was = $user->roleIn($migration);
            Meanwhile::check($shown, ['role' => (string) $was?->value], ['role' => $role->value], ['role' => "Role of $user->name"]);
            Membership::give($user, $migration, $role);
            Audit::note($migration->id, "changed the role of $user->email", ['before' => $was?->value, 'after' => $role->value]);
        });
    }

    public static function leave(Migration $migration, User $user): void
    {
        self::keepingALead($migration, $user, function () use ($migration, $user) {
            $was = $user->roleIn($migration);
            Membership::take($user, $migration);
            Audit::note($migration->id, "took $user->email out of the migration", ['before' => $was?->value]);
        });
    }

    private static function keepingALead(Migration $migration, User $user, \Closure $act): void
    {
        DB::transaction(function () use ($migration, $user, $act) {
            // Whoever changes the people of a migration does so one after the other.
            Migration::query()->whereKey($migration->id)->lockForUpdate()->firstOrFail();
            Membership::$turns++;
            if ($user->roleIn($migration) === null) {
                throw new \DomainException("$user->email does not belong to the migration any more.");
            }
            $act();
            self::hasLead($migration->id);
        }, self::TIMES);
    }

    /** @throws \DomainException where nobody who can log in leads it any more */
    public static function hasLead(int $migration): void
    {
        $isLed = Membership::query()
            ->where('migration_id', $migration)
            ->where('role', Role::Lead->value)
            ->whereHas('user', fn ($q) => $q->whereNull('disabled_at'))
            ->exists();
        if (! $isLed) {
            throw new \DomainException('A migration keeps one lead at least: make somebody else lead first.');
        }
    }

    /** @throws \DomainException */
    public static function fit(string $email): void
    {
        if (! Address::isFit(trim($email))) {
            throw new \DomainException('This is no e-mail address: it needs one @, and no blanks or signs that cannot be seen.');
        }
    }
}
