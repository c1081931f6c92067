<?php

namespace App\People;

use App\Models\User;
use Illuminate\Http\Request;
use Illuminate\Validation\ValidationException;

/** Before what cannot be taken back, whoever asks proves once more who they are: by their password, or a code of their second factor. */
final class Confirmation
{
    private const KEY = 'confirmed_at';

    /** Minutes for which it holds. */
    public const MINUTES = 10;

    public function __construct(private readonly Throttle $throttle)
    {
    }

    public static function holds(Request $request): bool
    {
        return (int) $request->session()->get(self::KEY) > now()->subMinutes(self::MINUTES)->timestamp;
    }

    public static function note(Request $request): void
    {
        $request->session()->put(self::KEY, now()->timestamp);
    }

    /** @throws ValidationException for the field "current" */
    public function ask(Request $request, User $user): void
    {
        if (! self::holds($request)) {
            $given = $this->given($request, 'This needs your password once more, or a code of your second factor.');
            $this->refuseWaiting($request, $user, $user->hasSecondFactor() ? $this->throttle->waitForCode($user) : 0);
            $isRight = Passwords::isRight($user, $given) || SecondFactor::passes($user, $given);
            if (! $isRight && $user->hasSecondFactor()) {
                // What is tried here may be a code: it counts as one.
                $this->throttle->codeFailed($user);
            }
            $this->judge($request, $user, $isRight, 'This is neither your password nor a code that holds now.');
        }
    }

    /** @throws ValidationException for the field "current" */
    public function askPassword(Request $request, User $user): void
    {
        $given = $this->given($request, 'Your current password is needed.');
        $this->refuseWaiting($request, $user, 0);
        $this->judge($request, $user, Passwords::isRight($user, $given), 'The current password is another.');
    }

    private function given(Request $request, string $otherwise): string
    {
        $given = $request->input('current');
        if (! is_string($given) || $given === '' || strlen($given) > 1000) {
            throw ValidationException::withMessages(['current' => $otherwise]);
        }

        return $given;
    }

    /** Before anything is looked at: a code that is given while others have to wait is not used up. */
    private function refuseWaiting(Request $request, User $user, int $atLeast): void
    {
        $wait = max($atLeast, $this->throttle->wait($user, $user->address, (string) $request->ip()));
        if ($wait > 0) {
            throw ValidationException::withMessages(['current' => "Too many tries. Wait $wait seconds."]);
        }
    }

    /** Tries at it count as those at the door do. */
    private function judge(Request $request, User $user, bool $isRight, string $otherwise): void
    {
        if (! $isRight) {
            $this->throttle->failed($user, $user->address, (string) $request->ip());
            throw ValidationException::withMessages(['current' => $otherwise]);
        }
        $this->throttle->codePassed($user);
        self::note($request);
    }
}
