<?php

namespace App\View;

use App\Models\ColumnReference;
use App\Models\Extract;
use App\Models\ReferenceDecision;
use Baggage\Core\Ordering\Levels;

/** Extracts as plates, parents left of what hangs on them, references as lines. */
final readonly class ReferenceChart
{
    public const WIDTH = 178;

    public const HEIGHT = 42;

    /**
     * @param  array<int, ExtractPlate>  $plates  by extract
     * @param  list<ReferenceLine>  $lines
     */
    private function __construct(public array $plates, public array $lines, public int $width, public int $height)
    {
    }

    /** @param  array<int, ColumnReference>  $references */
    public static function of(array $references): self
    {
        $references = array_filter($references, fn (ColumnReference $r) => $r->decision !== ReferenceDecision::Dismissed);
        $extracts = $edges = [];
        foreach ($references as $r) {
            $extracts[$r->parent_extract_id] = $r->parent;
            $extracts[$r->extract_id] = $r->extract;
            if ($r->extract_id !== $r->parent_extract_id) {
                $edges[$r->extract_id][] = $r->parent_extract_id;
            }
        }
        $plates = self::plates($extracts, Levels::of(array_keys($extracts), $edges));
        $lines = $out = [];
        foreach ($references as $r) {
            // Lines that leave one plate begin one below the other.
            $n = $r->extract_id === $r->parent_extract_id ? 0 : ($out[$r->extract_id] = ($out[$r->extract_id] ?? 0) + 1);
            $lines[] = self::line($r, $plates[$r->extract_id], $plates[$r->parent_extract_id], $n);
        }

        return new self(
            $plates,
            $lines,
            $plates === [] ? 0 : max(array_column($plates, 'x')) + self::WIDTH + 36,
            $plates === [] ? 0 : max(array_column($plates, 'y')) + self::HEIGHT + 14,
        );
    }

    /**
     * @param  array<int, Extract>  $extracts
     * @param  array<int, int>  $levels
     * @return array<int, ExtractPlate>
     */
    private static function plates(array $extracts, array $levels): array
    {
        $columns = [];
        foreach ($levels as $id => $level) {
            $columns[$level][] = $id;
        }
        ksort($columns);
        $plates = [];
        foreach ($columns as $level => $ids) {
            foreach ($ids as $n => $id) {
                $plates[$id] = new ExtractPlate(
                    $extracts[$id],
                    10 + $level * (self::WIDTH + 66),
                    10 + $n * (self::HEIGHT + 18),
                );
            }
        }

        return $plates;
    }

    private static function line(ColumnReference $r, ExtractPlate $child, ExtractPlate $parent, int $n): ReferenceLine
    {
        [$cx, $cy, $px, $py] = [$child->x, $child->y, $parent->x, $parent->y];
        [$right, $foot] = [$px + self::WIDTH, $cy + self::HEIGHT];
        $from = $cy + min(self::HEIGHT - 4, $n * 12 - 2);
        $to = $py + intdiv(self::HEIGHT, 2);
        [$path, $x, $y] = match (true) {
            $child === $parent => [
                self::curve([$right, $py + 10], [$right + 30, $py + 2], [$right + 30, $foot - 2], [$right, $foot - 10]),
                $right + 26,
                $foot - 2,
            ],
            $px < $cx => [self::curve([$cx, $from], [$cx - 36, $from], [$right + 36, $to], [$right + 2, $to]), $cx - 4, $from],
            // Closes a circle: out of the right side, into the parent's lower left corner.
            default => [
                self::curve(
                    [$cx + self::WIDTH, $foot - 4],
                    [$cx + self::WIDTH + 30, $foot + 10],
                    [$px - 30, $py + self::HEIGHT + 10],
                    [$px, $py + self::HEIGHT - 4],
                ),
                $cx + self::WIDTH + 22,
                $foot - 4,
            ],
        };

        return new ReferenceLine($r, $path, $x, $y + 4);
    }

    /** @param  array{int, int}  ...$points  begin, two handles, end */
    private static function curve(array ...$points): string
    {
        [$begin, $first, $second, $end] = array_map(fn (array $p) => "$p[0] $p[1]", $points);

        return "M$begin C $first, $second, $end";
    }
}
