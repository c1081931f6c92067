<?php

namespace App\Support;

use BackedEnum;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Support\Facades\DB;

/** Keeps what somebody else changed from being lost to whoever had the form open before: a form says what it showed. */
final class Meanwhile
{
    /**
     * Changes a record as a form says.
     *
     * @param  mixed  $was  what the form showed, as shown() writes it; a form that says nothing of a text has seen it
     * @param  array<string, mixed>  $changes  attributes of the record
     * @param  array<string, string>  $labels  attribute → what it is called where both are shown
     * @return array{before: array<string, string>, after: array<string, string>} what is another now
     *
     * @throws EditLost
     */
    public static function change(Model $of, mixed $was, array $changes, array $labels): array
    {
        return DB::transaction(function () use ($of, $was, $changes, $labels) {
            $now = $of->newQuery()->whereKey($of->getKey())->lockForUpdate()->firstOrFail();
            // A secret is shown nowhere, and stands in no log.
            $keys = array_values(array_diff(array_keys($changes), $of->getHidden()));
            $before = self::texts($now, $keys);
            $after = self::texts((clone $now)->fill($changes), $keys);
            self::check($was, $before, $after, $labels);
            // The record as it is now: what was read before may have been changed since.
            $now->fill($changes)->save();
            $of->setRawAttributes($now->getAttributes(), true);
            $changed = array_keys(array_diff_assoc($after, $before));

            return [
                'before' => array_intersect_key($before, array_flip($changed)),
                'after' => array_intersect_key($after, array_flip($changed)),
            ];
        });
    }

    /**
     * @param  mixed  $was  as shown() writes it
     * @param  array<string, string>  $now  text as it stands
     * @param  array<string, string>  $mine  text as the form has it
     * @param  array<string, string>  $labels
     *
     * @throws EditLost where a text is neither as it was shown nor as it is wanted
     */
    public static function check(mixed $was, array $now, array $mine, array $labels): void
    {
        $shown = is_string($was) ? json_decode($was, true) : null;
        $lost = [];
        foreach (is_array($shown) ? $labels : [] as $key => $label) {
            $isKnown = ! isset($mine[$key]) || ! is_string($shown[$key] ?? null) || self::alike($shown[$key], $now[$key] ?? '');
            if (! $isKnown && ! self::alike($mine[$key], $now[$key] ?? '')) {
                $lost[] = ['what' => $label, 'theirs' => $now[$key] ?? '', 'mine' => $mine[$key]];
            }
        }
        if ($lost !== []) {
            throw EditLost::of($lost);
        }
    }

    /** @throws EditLost where what somebody else said since is not the same */
    public static function differs(string $what, string $theirs, string $mine): void
    {
        if (! self::alike($theirs, $mine)) {
            throw EditLost::of([['what' => $what, 'theirs' => $theirs, 'mine' => $mine]]);
        }
    }

    /**
     * What a form says it showed.
     *
     * @param  Model|array<string, mixed>|null  $of
     * @param  list<string>  $keys
     */
    public static function shown(Model|array|null $of, array $keys): string
    {
        $texts = $of === null ? array_fill_keys($keys, '') : self::texts($of, $keys);

        return json_encode($texts, JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR);
    }

    /**
     * @param  Model|array<string, mixed>  $of
     * @param  list<string>  $keys
     * @return array<string, string>
     */
    public static function texts(Model|array $of, array $keys): array
    {
        $texts = [];
        foreach ($keys as $key) {
            $texts[$key] = self::text($of[$key] ?? null);
        }

        return $texts;
    }

    public static function text(mixed $value): string
    {
        return match (true) {
            $value === null => '',
            $value instanceof BackedEnum => (string) $value->value,
            is_bool($value) => $value ? 'yes' : 'no',
            is_array($value) => array_is_list($value) && array_filter($value, is_scalar(...)) === $value
                ? implode(', ', array_map(strval(...), $value))
                : json_encode($value, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR),
            default => (string) $value,
        };
    }

    /** Forms write line ends their own way. */
    private static function alike(string $a, string $b): bool
    {
        return str_replace(["\r\n", "\r"], "\n", $a) === str_replace(["\r\n", "\r"], "\n", $b);
    }
}
