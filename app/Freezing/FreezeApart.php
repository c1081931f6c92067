<?php

namespace App\Freezing;

use App\Decisions\Following;
use App\Models\Take;
use App\Models\TakeState;
use App\Support\Apart;
use App\Support\ApartEnded;
use App\Support\Bounds;

/** Freezes a take in a process of its own, where there are such, and ends that when somebody asks for it or nothing more comes. */
final class FreezeApart
{
    /** Microseconds between two looks at it. */
    private const LOOK = 100_000;

    /** Seconds a process that was asked to stop has to do so itself. */
    private const GRACE = 1.0;

    /** @param  (\Closure(): float)|null  $clock  seconds; that of the machine where there is none */
    public static function freeze(Take $take, Freezer $freezer, ?\Closure $clock = null): void
    {
        if (! config('baggage.apart.on')) {
            $freezer->freeze($take);
            self::state($take);

            return;
        }
        $apart = Apart::start(['baggage:freeze', (string) $take->id], '', Bounds::of('freeze'));
        try {
            $ended = self::watch($apart, $take->id, $clock ?? fn (): float => microtime(true));
            $ended === null ? $apart->answer() : null;
        } catch (ApartEnded $e) {
            $ended = $e->getMessage();
        } finally {
            $apart->end();
        }
        if ($ended !== null) {
            // Frozen a moment before it was ended, it is frozen.
            $isFrozen = $take->refresh()->state === TakeState::Frozen;
            $isFrozen ? Following::complete($take) : $freezer->fail($take, $ended);
        }
        self::state($take);
    }

    /** A covering sheet, or what one speaks of, may have come. */
    private static function state(Take $take): void
    {
        if ($take->refresh()->state === TakeState::Frozen) {
            StatedCounts::read($take->extract->source);
        }
    }

    /**
     * @param  \Closure(): float  $clock
     * @return string|null why it has to be ended; null where it came to its end
     *
     * @throws ApartEnded
     */
    private static function watch(Apart $apart, int $take, \Closure $clock): ?string
    {
        [$last, $since, $asked] = [null, $clock(), null];
        while ($apart->isGoing()) {
            usleep(self::LOOK);
            $now = Take::query()->whereKey($take)->toBase()->first(['state', 'rows', 'bytes_read']);
            if ($now?->state === TakeState::Stopping->value) {
                $asked ??= $clock();
                if ($clock() - $asked > self::GRACE) {
                    return Freezer::STOPPED;
                }
            }
            if ($last != $now) {
                [$last, $since] = [$now, $clock()];
            }
            $most = (float) config('baggage.apart.stalled');
            if ($clock() - $since > $most) {
                return 'Nothing more came for '.number_format($most).' s, so reading was ended. Nothing of it is kept.';
            }
        }

        return null;
    }
}
