<?php

namespace Baggage\Core\Plan;

/** What a plan file and a person at the screens changed since the plan was last applied, put together item by item. */
final readonly class Merge
{
    /**
     * @param  Items  $result  what is to be
     * @param  list<string>  $kept  paths of items only the screen changed
     * @param  list<Conflict>  $conflicts  items both changed, and not alike; in the result they are as the file has them
     */
    private function __construct(public Items $result, public array $kept, public array $conflicts)
    {
    }

    /**
     * The file's items in its order, then what was added on the screen.
     *
     * @param  Items  $base  as last applied from a file; none where no file was
     */
    public static function of(Items $base, Items $file, Items $screen): self
    {
        $result = $kept = $conflicts = [];
        foreach (array_keys($file->all + $screen->all + $base->all) as $path) {
            $path = (string) $path;
            [$was, $is, $shown] = [self::item($base, $path), self::item($file, $path), self::item($screen, $path)];
            $takesScreen = self::same($is, $was) && ! self::same($shown, $was);
            if ($takesScreen) {
                $kept[] = $path;
            } elseif (! self::same($is, $shown) && ! self::same($shown, $was)) {
                $conflicts[] = new Conflict($path, $is === null ? null : $is[0], $shown === null ? null : $shown[0]);
            }
            $chosen = $takesScreen ? $shown : $is;
            if ($chosen !== null) {
                $result[$path] = $chosen[0];
            }
        }

        return new self(Items::from(self::whole($result)), $kept, $conflicts);
    }

    /**
     * The result with some conflicts decided for the screen.
     *
     * @param  list<string>  $screen  their paths
     */
    public function with(array $screen): Items
    {
        $items = $this->result->all;
        foreach ($this->conflicts as $conflict) {
            if (in_array($conflict->path, $screen, true)) {
                unset($items[$conflict->path]);
                $items += $conflict->screen === null ? [] : [$conflict->path => $conflict->screen];
            }
        }

        return Items::from(self::whole($items));
    }

    /** @return array{mixed}|null */
    private static function item(Items $items, string $path): ?array
    {
        return array_key_exists($path, $items->all) ? [$items->all[$path]] : null;
    }

    /**
     * @param  array{mixed}|null  $a
     * @param  array{mixed}|null  $b
     */
    private static function same(?array $a, ?array $b): bool
    {
        // Lists keep their order, names do not.
        return self::ordered($a) === self::ordered($b);
    }

    private static function ordered(mixed $value): mixed
    {
        if (! is_array($value)) {
            return $value;
        }
        if (! array_is_list($value)) {
            ksort($value);
        }

        return array_map(self::ordered(...), $value);
    }

    /**
     * Without parts of loads, extracts and crosswalks that are not there any more.
     *
     * @param  array<string, mixed>  $items
     * @return array<string, mixed>
     */
    private static function whole(array $items): array
    {
        return array_filter($items, function (string $path) use ($items) {
            $names = Items::names($path);
            $owner = match (true) {
                $names[0] === 'loads', $names[0] === 'code_crosswalks' => array_slice($names, 0, 2),
                $names[0] === 'sources' && ($names[2] ?? null) === 'extracts' => array_slice($names, 0, 4),
                default => null,
            };

            return $owner === null || array_key_exists(implode("\0", [...$owner, 'is there']), $items);
        }, ARRAY_FILTER_USE_KEY);
    }
}
