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
    private function __construct(
        public Items $result,
        public array $kept,
        public array $conflicts,
        private Items $screen,
    ) {
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
                $kept[$path] = $path;
            } elseif (! self::same($is, $shown) && ! self::same($shown, $was)) {
                $conflicts[$path] = new Conflict($path, $is === null ? null : $is[0], $shown === null ? null : $shown[0]);
            }
            $chosen = $takesScreen ? $shown : $is;
            if ($chosen !== null) {
                $result[$path] = $chosen[0];
            }
        }
        foreach (self::brokenUp($result, $kept + array_fill_keys(array_keys($conflicts), ''), $file, $screen) as $owner) {
            // One took it away as a whole while the other changed something in it: that is about the whole.
            [$kept, $conflicts] = array_map(fn (array $of) => self::without($of, $owner), [$kept, $conflicts]);
            $there = self::path($owner);
            $conflicts[$there] = new Conflict($there, $file->all[$there] ?? null, $screen->all[$there] ?? null);
            $result = self::without($result, $owner) + self::under($file->all, $owner);
        }

        return new self(Items::from(self::whole($result)), array_values($kept), array_values($conflicts), $screen);
    }

    /**
     * What the result has otherwise than the screen, in its order; a load, extract or crosswalk that comes or goes is one change.
     *
     * @return list<Conflict> with what is to be as the file's part of it
     */
    public function changes(): array
    {
        $changes = [];
        foreach (array_keys($this->result->all + $this->screen->all) as $path) {
            $path = (string) $path;
            [$is, $shown] = [self::item($this->result, $path), self::item($this->screen, $path)];
            $owner = self::owner($path);
            $whole = $owner === null ? null : self::path($owner);
            $comesOrGoes = $whole !== null
                && array_key_exists($whole, $this->result->all) !== array_key_exists($whole, $this->screen->all);
            if (! self::same($is, $shown) && (! $comesOrGoes || $path === $whole)) {
                $changes[] = new Conflict($path, $is === null ? null : $is[0], $shown === null ? null : $shown[0]);
            }
        }

        return $changes;
    }

    /**
     * The result, but for some items that stay as the screen has them.
     *
     * @param  list<string>  $screen  their paths; that of a load, extract or crosswalk stands for all of it
     */
    public function with(array $screen): Items
    {
        $items = $this->result->all;
        $owners = [];
        foreach ($screen as $path) {
            $owner = self::owner($path);
            if ($owner !== null && $path === self::path($owner)) {
                $owners[implode("\0", $owner)] = true;
            } elseif (array_key_exists($path, $this->screen->all)) {
                $items[$path] = $this->screen->all[$path];
            } else {
                unset($items[$path]);
            }
        }
        if ($owners !== []) {
            $isOf = fn (string $path): bool => isset($owners[implode("\0", self::owner($path) ?? [])]);
            $items = array_filter($items, fn (string $path) => ! $isOf($path), ARRAY_FILTER_USE_KEY)
                + array_filter($this->screen->all, $isOf, ARRAY_FILTER_USE_KEY);
        }

        return Items::from(self::whole($items));
    }

    /**
     * Loads, extracts and crosswalks that are in the file or on the screen alone, and of which the other changed a part.
     *
     * @param  array<string, mixed>  $result
     * @param  array<string, mixed>  $touched  paths that the screen changed
     * @return array<string, list<string>> names of each
     */
    private static function brokenUp(array $result, array $touched, Items $file, Items $screen): array
    {
        $broken = [];
        foreach (array_keys($touched) as $path) {
            $owner = self::owner((string) $path);
            if ($owner === null || (string) $path === self::path($owner) || array_key_exists(self::path($owner), $result)) {
                continue;
            }
            // Taken away on the screen alone, and the file did not touch it: then it is gone.
            $isThere = array_key_exists(self::path($owner), $screen->all);
            $changed = $isThere || array_filter(
                self::under($file->all, $owner),
                fn (string $p) => ! array_key_exists($p, $touched) || $touched[$p] === '',
                ARRAY_FILTER_USE_KEY,
            ) !== [];
            if ($changed) {
                $broken[implode("\0", $owner)] = $owner;
            }
        }

        return $broken;
    }

    /** @return list<string>|null names of the load, extract or crosswalk an item is part of */
    private static function owner(string $path): ?array
    {
        $names = Items::names($path);

        return match (true) {
            $names[0] === 'loads', $names[0] === 'code_crosswalks' => array_slice($names, 0, 2),
            $names[0] === 'sources' && ($names[2] ?? null) === 'extracts' => array_slice($names, 0, 4),
            default => null,
        };
    }

    /** @param  list<string>  $owner */
    private static function path(array $owner): string
    {
        return implode("\0", [...$owner, 'is there']);
    }

    /**
     * @template T
     *
     * @param  array<string, T>  $items
     * @param  list<string>  $owner
     * @return array<string, T>
     */
    private static function under(array $items, array $owner): array
    {
        return array_filter($items, fn (string $path) => self::owner($path) === $owner, ARRAY_FILTER_USE_KEY);
    }

    /**
     * @template T
     *
     * @param  array<string, T>  $items
     * @param  list<string>  $owner
     * @return array<string, T>
     */
    private static function without(array $items, array $owner): array
    {
        return array_filter($items, fn (string $path) => self::owner($path) !== $owner, ARRAY_FILTER_USE_KEY);
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
            $owner = self::owner($path);

            return $owner === null || array_key_exists(self::path($owner), $items);
        }, ARRAY_FILTER_USE_KEY);
    }
}
