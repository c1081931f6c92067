<?php

namespace App\Freezing;

use App\Models\Extract;
use App\Models\Take;
use App\Models\TakeState;
use Baggage\Core\Feeds\FeedFormat;

/** Feeds that are made of an extract: they are made again when it has a new take. */
final class DependentFeeds
{
    /** @return list<Extract> */
    public static function of(Extract $extract): array
    {
        $name = "{$extract->source?->code}/$extract->name";

        return Extract::query()
            ->where('reader->kind', 'feed')
            ->whereHas('source', fn ($q) => $q->where('migration_id', $extract->source?->migration_id))
            ->get()
            ->filter(fn (Extract $e) => in_array($name, $e->reader['of'] ?? [], true))
            ->values()
            ->all();
    }

    /** Puts them on the queue, but for those that wait there already. */
    public static function makeAgain(Extract $extract): void
    {
        foreach (self::of($extract) as $feed) {
            if ($feed->take_id !== null && ! $feed->takes()->where('state', TakeState::Waiting)->exists()) {
                FreezeTake::dispatch(self::take($feed)->id);
            }
        }
    }

    public static function take(Extract $feed, ?int $user = null): Take
    {
        return $feed->newTake([
            'file' => '',
            'file_name' => $feed->settings()->describe(),
            'bytes' => 0,
            'recipe' => $feed->settings()->toArray(),
            'user_id' => $user,
        ]);
    }

    /**
     * @param  iterable<Extract>  $extracts
     * @return list<Extract> those others are made of before those made of them
     */
    public static function inOrder(iterable $extracts): array
    {
        $byName = $ordered = [];
        foreach ($extracts as $extract) {
            $byName["{$extract->source?->code}/$extract->name"] = $extract;
        }
        $visit = function (string $name) use (&$visit, &$byName, &$ordered): void {
            $extract = $byName[$name] ?? null;
            unset($byName[$name]);
            if ($extract === null) {
                return;
            }
            if ($extract->settings()->format instanceof FeedFormat) {
                array_map($visit, $extract->settings()->format->of);
            }
            $ordered[] = $extract;
        };
        array_map($visit, array_keys($byName));

        return $ordered;
    }
}
