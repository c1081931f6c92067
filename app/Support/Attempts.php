<?php

namespace App\Support;

use Illuminate\Database\Eloquent\Model;

/**
 * Counts the processes that began on a piece of work before they begin, so that one whose data ends every process is not begun
 * without end.
 */
final class Attempts
{
    public const MOST = 3;

    /** @return bool whether there may be another; it is counted then */
    public static function begin(Model $work, string $counter = 'attempts'): bool
    {
        return $work->newQuery()->whereKey($work->getKey())->where($counter, '<', self::MOST)->increment($counter)
            === 1;
    }

    /** What a person is told of work that was given up. */
    public static function exhausted(string $what, string $where): string
    {
        return "$what broke off ".self::MOST
            ." times, the last time $where. It is not tried again by itself: look at the data there, "
            .'or at the memory this machine has.';
    }

    public static function within(int $done, int $atMost): string
    {
        return 'within rows '.number_format($done + 1).' to '.number_format($done + $atMost);
    }
}
