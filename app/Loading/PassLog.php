<?php

namespace App\Loading;

use App\Models\Pass;
use Illuminate\Support\Facades\DB;

/** What happened to a pass: when it began, waited and for what, was stopped, went on and ended. */
final class PassLog
{
    private const SHOWN = 200;

    public static function note(Pass $pass, string $what, ?\DateTimeInterface $next = null): void
    {
        DB::table('pass_log')->insert([
            'pass_id' => $pass->id, 'what' => mb_substr($what, 0, 1000), 'next_try_at' => $next, 'at' => now(),
        ]);
    }

    /** Whether a worker said a moment ago that it waits: others that wait for the same add nothing. */
    public static function isWaiting(Pass $pass): bool
    {
        $last = DB::table('pass_log')->where('pass_id', $pass->id)->latest('id')->first(['next_try_at']);

        return $last?->next_try_at !== null && $last->next_try_at > now()->format('Y-m-d H:i:s');
    }

    /**
     * @param  list<int>  $passes
     * @return array<int, list<\stdClass>> pass → at, what, next_try_at, the last first
     */
    public static function of(array $passes): array
    {
        $found = [];
        foreach ($passes as $pass) {
            $found[$pass] = DB::table('pass_log')->where('pass_id', $pass)->latest('id')->limit(self::SHOWN)
                ->get(['at', 'what', 'next_try_at'])->all();
        }

        return $found;
    }
}
