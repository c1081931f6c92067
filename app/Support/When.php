<?php

namespace App\Support;

use DateTimeInterface;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Auth;

/** Times as the person reads them: in their zone. Nobody's is UTC. */
final class When
{
    /** How much of a time is shown. The zone stands behind what is not read beside others of its kind. */
    private const AS = [
        'day' => 'j M Y',
        'clock' => 'H:i',
        'short' => 'j M H:i',
        'second' => 'j M Y H:i:s',
        'full' => 'j F Y H:i T',
        'counted' => 'j F, H:i:s T',
    ];

    public static function said(DateTimeInterface|string|null $at, string $as): string
    {
        return $at === null || $at === '' ? '' : self::here($at)->format(self::AS[$as]);
    }

    /** As files and logs have it: it sorts, and says its zone (ISO 8601, with a blank for the T). */
    public static function written(DateTimeInterface|string|null $at): string
    {
        return $at === null || $at === '' ? '' : self::here($at)->format('Y-m-d H:i:sP');
    }

    public static function zone(): string
    {
        $user = Auth::user();

        return $user instanceof Model ? (string) $user->getAttribute('zone') : 'UTC';
    }

    /** A day of the person's, as the moment it begins; or one so many days after it. */
    public static function day(string $day, int $after = 0): Carbon
    {
        return Carbon::parse($day, self::zone())->addDays($after)->utc();
    }

    /** @param  DateTimeInterface|string  $at  text without a zone is UTC, as everything that is stored */
    private static function here(DateTimeInterface|string $at): Carbon
    {
        return Carbon::parse($at, 'UTC')->setTimezone(self::zone());
    }
}
