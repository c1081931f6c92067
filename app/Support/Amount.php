<?php

namespace App\Support;

/** Numbers with what they count. */
final class Amount
{
    /** "1 row", "1,204 rows". */
    public static function of(int $n, string $one, ?string $many = null): string
    {
        return number_format($n).' '.($n === 1 ? $one : $many ?? "{$one}s");
    }
}
