<?php

namespace Baggage\Core\Loading;

/** Keys that stand in a dry run for those a target would give its new records. */
final class Provisional
{
    public static function of(int $load, int $row): string
    {
        return "(new $load.$row)";
    }

    public static function is(?string $key): bool
    {
        return $key !== null && preg_match('/^\(new \d+\.\d+\)$/D', $key) === 1;
    }
}
