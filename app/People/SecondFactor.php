<?php

namespace App\People;

use App\Models\Audit;
use App\Models\User;
use Illuminate\Support\Facades\DB;

/** Somebody's second factor: codes that change, and ten codes for the day the device is lost. Each opens once. */
final class SecondFactor
{
    /** Recovery codes given at a time. */
    public const CODES = 10;

    private const GROUPS = 3;

    private const GROUP = 4;

    /** A new secret, to be confirmed by a first code. */
    public static function begin(User $user): string
    {
        return DB::transaction(function () use ($user) {
            $user = User::query()->whereKey($user->id)->lockForUpdate()->firstOrFail();
            if ($user->hasSecondFactor()) {
                throw new \DomainException('There is a second factor already: take it away first.');
            }
            $user->update(['totp_secret' => $secret = Totp::secret(), 'totp_step' => 0]);

            return $secret;
        });
    }

    /** @return list<string>|null recovery codes, shown this once; null where the code is not of the secret */
    public static function confirm(User $user, string $code): ?array
    {
        return DB::transaction(function () use ($user, $code) {
            $user = User::query()->whereKey($user->id)->lockForUpdate()->firstOrFail();
            $step = $user->totp_secret === null || $user->hasSecondFactor()
                ? null
                : Totp::stepOf($user->totp_secret, self::bare($code), (int) now()->timestamp);
            if ($step === null) {
                return null;
            }
            $user->update(['totp_since' => now(), 'totp_step' => $step]);
            Audit::note(null, 'set up a second factor');

            return self::codes($user);
        });
    }

    /** Whether a code opens now. One that has opened before does not. */
    public static function passes(User $user, string $code): bool
    {
        $secret = $user->hasSecondFactor() ? $user->totp_secret : null;
        if ($secret === null) {
            return false;
        }
        $bare = self::bare($code);
        $step = Totp::stepOf($secret, $bare, (int) now()->timestamp);
        if ($step !== null) {
            // RFC 6238, section 5.2: a code is accepted once; of two requests with the same one is.
            return User::query()->whereKey($user->id)->where('totp_step', '<', $step)->update(['totp_step' => $step]) === 1;
        }
        $isThere = DB::table('recovery_codes')->where('user_id', $user->id)->where('code', self::kept($user, $bare))->delete() === 1;
        if ($isThere) {
            Audit::note(null, 'used a recovery code', ['of' => $user->email, 'left' => self::left($user)]);
        }

        return $isThere;
    }

    /** @return list<string> those given before end */
    public static function renew(User $user): array
    {
        return DB::transaction(function () use ($user) {
            User::query()->whereKey($user->id)->lockForUpdate()->firstOrFail();
            Audit::note(null, 'asked for new recovery codes');

            return self::codes($user);
        });
    }

    public static function remove(User $user): void
    {
        DB::transaction(function () use ($user) {
            DB::table('recovery_codes')->where('user_id', $user->id)->delete();
            $user->update(['totp_secret' => null, 'totp_since' => null, 'totp_step' => 0]);
            Audit::note(null, "took the second factor of $user->email away");
        });
    }

    /** @return int recovery codes that were not used yet */
    public static function left(User $user): int
    {
        return DB::table('recovery_codes')->where('user_id', $user->id)->count();
    }

    /** The secret in groups, to be typed. */
    public static function spelled(string $secret): string
    {
        return implode(' ', str_split($secret, self::GROUP));
    }

    /** @return list<string> */
    private static function codes(User $user): array
    {
        $codes = [];
        while (count($codes) < self::CODES) {
            $codes[] = substr(Totp::base32(random_bytes(self::GROUPS * self::GROUP)), 0, self::GROUPS * self::GROUP);
        }
        DB::table('recovery_codes')->where('user_id', $user->id)->delete();
        DB::table('recovery_codes')->insert(array_map(fn ($code) => ['user_id' => $user->id, 'code' => self::kept($user, $code)], $codes));

        return array_map(fn ($code) => strtolower(implode('-', str_split($code, self::GROUP))), $codes);
    }

    private static function bare(string $code): string
    {
        return strtoupper((string) preg_replace('/[\s-]+/', '', $code));
    }

    /** What is kept of a code: worth nothing without the application's key. */
    private static function kept(User $user, string $bare): string
    {
        return hash_hmac('sha256', "recovery:$user->id:$bare", (string) config('app.key'), true);
    }
}
