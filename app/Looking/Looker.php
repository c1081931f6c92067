<?php

namespace App\Looking;

use Baggage\Core\Reading\ReadingError;

/** Looks into foreign bytes. */
interface Looker
{
    /**
     * @param  array<string, mixed>  $given
     * @return mixed what it saw, as JSON can say it
     *
     * @throws ReadingError
     */
    public static function look(array $given): mixed;
}
