<?php

namespace App\Support;

use Illuminate\Database\QueryException;
use Illuminate\Database\UniqueConstraintViolationException;
use Throwable;

/** What a writing that failed because of another at the same moment is told. */
final class SameMoment
{
    /** Codes of MariaDB for a lock that was waited for too long, and for one of two that wait for each other. */
    private const IN_THE_WAY = [1205, 1213];

    private const TWICE = 'The same was made at the same moment, by somebody else or by a second press. It is there once.';

    private const AT_ONCE = 'Somebody else was at the same thing at the same moment. Nothing of this was kept; send it again.';

    /** @return string|null null where it failed for another reason */
    public static function says(Throwable $e): ?string
    {
        return match (true) {
            $e instanceof UniqueConstraintViolationException => self::TWICE,
            $e instanceof QueryException && in_array((int) ($e->errorInfo[1] ?? 0), self::IN_THE_WAY, true) => self::AT_ONCE,
            default => null,
        };
    }
}
