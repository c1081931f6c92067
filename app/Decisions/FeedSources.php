<?php

namespace App\Decisions;

use App\Models\Extract;
use App\Models\Take;
use App\Staging\Corrections;
use App\Staging\StagedRows;
use Baggage\Core\Feeds\Combination;
use Baggage\Core\Feeds\Comparison;
use Baggage\Core\Feeds\FeedFormat;

/** Which row of which extract a row of a made feed comes from. */
final class FeedSources
{
    /**
     * @param  list<Take>  $takes  the feed's take was made of
     * @param  list<string>  $headers  of the feed
     */
    private function __construct(
        private readonly Take $take,
        private readonly FeedFormat $format,
        public readonly array $takes,
        private readonly array $headers,
    ) {
    }

    public static function of(Take $take, FeedFormat $format): self
    {
        $takes = [];
        foreach ($take->arithmetic['extracts'] ?? [] as $made) {
            $of = isset($made['take']) ? Take::query()->find($made['take']) : null;
            if ($of !== null) {
                $takes[] = $of;
            }
        }

        return new self($take, $format, count($takes) === count($format->of) ? $takes : [], $take->headers());
    }

    /** Where a column of an extract stands in the feed. */
    public function position(int $side, int $position): ?int
    {
        $width = count($this->takes[0]->columns ?? []);
        if ($this->format->combination === Combination::Distinct) {
            return null;
        }
        if ($this->format->combination === Combination::Stack) {
            $header = $this->takes[$side]->headers()[$position] ?? null;
            $at = array_search($header, array_slice($this->headers, 1), true);

            return $at === false ? null : $at + 1;
        }

        return $position + ($side === 0 ? 0 : $width);
    }

    /** @return array{int, int}|null extract and position there; null where the column is the feed's own */
    public function origin(int $position, string $from): ?array
    {
        $widths = array_map(fn (Take $t) => count($t->columns ?? []), $this->takes);

        return match ($this->format->combination) {
            Combination::Distinct => null,
            Combination::Stack => $this->stacked($position, $from),
            default => match (true) {
                $position < $widths[0] => [0, $position],
                $position < $widths[0] + $widths[1] => [1, $position - $widths[0]],
                default => null,
            },
        };
    }

    /** Whether rows come together, or become one, by this column. */
    public function isMadeBy(int $side, string $header): bool
    {
        $columns = match (true) {
            $this->format->combination === Combination::Distinct => $this->format->columns,
            $side === 0 => array_map(strval(...), array_keys($this->format->on)),
            default => array_values($this->format->on),
        };
        foreach ($columns as $name) {
            if (($this->takes[$side]->tidyColumns()->find($name)->header ?? $name) === $header) {
                return true;
            }
        }

        return false;
    }

    /**
     * @param  array<int, list<int>>  $wanted  extract → rows of its take
     * @return \Generator<array{int, int, int}> row of the feed, extract, row of its take
     */
    public function rows(array $wanted): \Generator
    {
        $sets = array_map(array_flip(...), $wanted);
        $isByPlace = $this->format->combination === Combination::Position;
        if ($isByPlace) {
            // What stands beside each other does so by its place in the file: place → row.
            foreach ($wanted as $side => $rows) {
                $sets[$side] = array_flip((new StagedRows($this->takes[$side]->id))->placesOf($rows));
            }
        }
        $partners = $this->format->combination === Combination::Join ? $this->partners($wanted[1] ?? []) : [];
        $left = $this->format->combination === Combination::Join ? $this->by(0) : [];
        $compare = Comparison::named($this->format->compared);
        foreach (StagedRows::walk($this->take->id) as $row => [$line, , $cells]) {
            $side = $this->format->combination === Combination::Stack ? (int) array_search($cells[0] ?? '', $this->format->of, true) : 0;
            if (isset($sets[$side][$line])) {
                yield [$row, $side, $isByPlace ? $sets[$side][$line] : $line];
            }
            if ($isByPlace && isset($sets[1][$line])) {
                yield [$row, 1, $sets[1][$line]];
            }
            if ($partners !== []) {
                $hash = $compare->hash(array_map(fn (int $i) => $cells[$i] ?? null, $left));
                foreach ($partners[(string) $hash] ?? [] as $of => $values) {
                    if ($this->isBeside($cells, $values)) {
                        yield [$row, 1, $of];
                    }
                }
            }
        }
    }

    /**
     * The row of an extract that a row of the feed was made of.
     *
     * @param  list<string|null>  $cells  of the feed
     * @return int|null null where it cannot be told at once
     */
    public function source(int $side, int $line, array $cells): ?int
    {
        if ($this->format->combination === Combination::Position) {
            return (new StagedRows($this->takes[$side]->id))->at($line);
        }
        if ($side === 0 || $this->format->combination !== Combination::Join) {
            return $line;
        }
        $width = count($this->takes[0]->columns ?? []);
        $at = $this->by(1)[0];
        $value = $cells[$width + $at] ?? null;
        if ($value === null) {
            return null;
        }
        foreach (StagedRows::withValue($this->takes[1]->id, $at, $value, 0)['rows'] as [$number, $row]) {
            if ($this->isBeside($cells, $row->cells)) {
                return $number;
            }
        }

        return null;
    }

    /** @return array{int, int}|null */
    private function stacked(int $position, string $from): ?array
    {
        $side = array_search($from, $this->format->of, true);
        $header = $this->headers[$position] ?? null;
        $at = $side === false || $position === 0 ? false : array_search($header, $this->takes[$side]->headers(), true);

        return $at === false ? null : [(int) $side, $at];
    }

    /** @return list<int> positions of the columns a join goes by */
    private function by(int $side): array
    {
        $names = $side === 0 ? array_map(strval(...), array_keys($this->format->on)) : array_values($this->format->on);

        return array_map(fn (string $n) => $this->takes[$side]->tidyColumns()->find($n)->position ?? 0, $names);
    }

    /**
     * @param  list<int>  $rows  of the second extract
     * @return array<string, array<int, array<int, string|null>>> hash of what they are joined by → row → cells, but those corrected
     */
    private function partners(array $rows): array
    {
        $found = [];
        $compare = Comparison::named($this->format->compared);
        foreach (array_chunk($rows, 1000) as $some) {
            $corrected = Corrections::positions($this->takes[1]->id, $some);
            foreach (StagedRows::cells($this->takes[1]->id, $some) as $row => $cells) {
                $hash = $compare->hash(array_map(fn (int $i) => $cells[$i] ?? null, $this->by(1)));
                $found[(string) $hash][$row] = array_diff_key($cells, array_flip($corrected[$row] ?? []));
            }
        }

        return $found;
    }

    /**
     * Whether the second half of a joined row is this row.
     *
     * @param  list<string|null>  $cells  of the feed
     * @param  array<int, string|null>  $row  of the second extract, by position
     */
    private function isBeside(array $cells, array $row): bool
    {
        $width = count($this->takes[0]->columns ?? []);
        foreach (array_slice($row, 0, count($this->takes[1]->columns ?? []), true) as $i => $cell) {
            if (($cells[$width + $i] ?? null) !== $cell) {
                return false;
            }
        }

        return true;
    }
}
