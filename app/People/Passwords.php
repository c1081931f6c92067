<?php

namespace App\People;

use App\Models\User;
use Closure;
use Illuminate\Contracts\Validation\ValidationRule;
use Illuminate\Support\Facades\Hash;

/** What a password has to be: long, and none that is tried first. Rules of NIST SP 800-63B section 5.1.1.2 (value from memory). */
final class Passwords implements ValidationRule
{
    public const SHORTEST = 12;

    /** What bcrypt reads of it, in bytes. */
    private const LONGEST = 72;

    public function __construct(private readonly ?User $of = null)
    {
    }

    public function validate(string $attribute, mixed $value, Closure $fail): void
    {
        $why = self::against((string) $value, $this->of);
        if ($why !== null) {
            $fail($why);
        }
    }

    /** @return string|null why it may not be; null when it may */
    public static function against(string $password, ?User $of = null): ?string
    {
        return match (true) {
            mb_strlen($password) < self::SHORTEST => 'A password has at least '.self::SHORTEST.' characters.',
            strlen($password) > self::LONGEST => 'A password has at most '.self::LONGEST.' bytes.',
            preg_match('/^(.{1,4}?)\1+.{0,3}$/us', $password) === 1 => 'This password repeats a few characters.',
            self::isCommon($password) => 'This password is one that many people use, or one of them with a little added.',
            $of !== null && self::isOf($password, $of) => 'This password is made of your name or address.',
            default => null,
        };
    }

    /** In the shipped list, itself or without the figures and signs around it. */
    private static function isCommon(string $password): bool
    {
        static $list = null;
        $list ??= "\n".file_get_contents(resource_path('common-passwords.txt'));
        $small = mb_strtolower($password);
        $bare = (string) preg_replace('/^[^\p{L}]+|[^\p{L}]+$/u', '', $small);
        foreach (array_unique([$small, $bare]) as $one) {
            if ($one === '' || str_contains($list, "\n$one\n")) {
                return true;
            }
        }

        return false;
    }

    private static function isOf(string $password, User $of): bool
    {
        $bare = (string) preg_replace('/[^\p{L}]+/u', '', mb_strtolower($password));
        $own = array_map(
            fn (string $word) => (string) preg_replace('/[^\p{L}]+/u', '', mb_strtolower($word)),
            [$of->name, $of->email, strtok($of->email, '@') ?: ''],
        );

        return in_array($bare, array_filter($own), true);
    }

    /** As long as it takes for an account there is, so that nobody learns from the time which there are. */
    public static function isRight(?User $user, string $password): bool
    {
        // No password has this hash; it takes the time of any other.
        $kept = $user->password ?? sprintf('$2y$%02d$%s', (int) config('hashing.bcrypt.rounds'), str_repeat('a', 53));

        return Hash::check($password, $kept) && $user?->password !== null;
    }
}
