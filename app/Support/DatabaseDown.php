<?php

namespace App\Support;

use Illuminate\Database\LostConnectionException;
use PDOException;
use Throwable;

/** Whether Baggage's own database was not there. */
final class DatabaseDown
{
    /** Codes of MariaDB's client: no connection, refused, gone, lost; and of its server: too many, going down. */
    private const CODES = [2002, 2003, 2006, 2013, 2055, 1040, 1053, 1077, 1079];

    public const SAYS = 'The database of Baggage does not answer. Nothing is lost: what was sent just now was not kept, '
        .'and a pass, a take or a check goes on where it was when the database is back.';

    public static function is(Throwable $e): bool
    {
        for ($of = $e; $of !== null; $of = $of->getPrevious()) {
            if (
                $of instanceof LostConnectionException
                || ($of instanceof PDOException && in_array((int) ($of->errorInfo[1] ?? $of->getCode()), self::CODES, true))
            ) {
                return true;
            }
        }

        return false;
    }
}
