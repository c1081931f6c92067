<?php

namespace Tests\Feature;

use App\View\Drawing\Board;
use App\View\Drawing\Box;
use App\View\Drawing\Edge;
use App\View\Drawing\Line;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/** Whatever hangs on what: no line behind a box, none along another, none through a number, and everything within the picture. */
final class BoardTest extends TestCase
{
    /** @return iterable<array{int}> */
    public static function seeds(): iterable
    {
        for ($seed = 1; $seed <= 60; $seed++) {
            yield [$seed];
        }
    }

    #[DataProvider('seeds')]
    public function test_random_graphs(int $seed): void
    {
        $random = new Randomizer(new Mt19937($seed));
        $nodes = $edges = [];
        $columns = $random->getInt(1, 5);
        for ($n = 0; $n < $random->getInt(1, 14) || $n < $columns; $n++) {
            $nodes["n$n"] = [$n < $columns ? $n : $random->getInt(0, $columns - 1), $random->getInt(20, 90)];
        }
        for ($n = $random->getInt(0, 25); $n > 0; $n--) {
            $ends = [array_rand($nodes), array_rand($nodes)];
            $pick = fn () => 'n'.$random->getInt(0, count($nodes) - 1);
            $edges[] = new Edge($pick(), $random->getInt(0, 9) === 0 ? $ends[0] : $pick(), $random->getInt(0, 1) * $random->getInt(10, 50));
        }
        $this->holds(Board::of($nodes, $edges, 150), count($edges));
    }

    public function test_nothing_and_one_box(): void
    {
        self::assertSame([], Board::of([], [], 100)->boxes);
        $this->holds(Board::of(['a' => [0, 40]], [new Edge('a', 'a', 20)], 100), 1);
    }

    private function holds(Board $board, int $edges): void
    {
        self::assertCount($edges, $board->lines);
        $whole = new Box(0, 0, $board->width, $board->height);
        foreach ($board->boxes as $id => $box) {
            self::assertTrue(self::within($box, $whole), "box $id lies in the picture");
            foreach ($board->boxes as $other => $second) {
                self::assertTrue($id === $other || ! self::meet($box, $second), "boxes $id and $other lie apart");
            }
        }
        foreach ($board->lines as $n => $line) {
            foreach (self::pieces($line) as $piece) {
                self::assertTrue(self::within($piece, $whole), "line $n lies in the picture");
                foreach ($board->boxes as $id => $box) {
                    self::assertFalse(self::meet($piece, $box), "line $n runs behind $id");
                }
            }
            foreach ($board->lines as $m => $other) {
                $m === $n ?: $this->apart($line, $other, "lines $n and $m");
            }
        }
    }

    private function apart(Line $line, Line $other, string $which): void
    {
        foreach (self::pieces($line) as $piece) {
            foreach (self::pieces($other) as $second) {
                $areUpright = $piece->width + $second->width === 0 && $piece->x === $second->x;
                $areLevel = $piece->height + $second->height === 0 && $piece->y === $second->y;
                $meet = ($areUpright && self::overlap($piece->y, $piece->bottom(), $second->y, $second->bottom()))
                    || ($areLevel && self::overlap($piece->x, $piece->right(), $second->x, $second->right()));
                self::assertFalse($meet, "$which run along each other");
            }
            if ($other->gap !== null) {
                self::assertFalse(self::meet($piece, $other->gap), "$which: one runs through the number of the other");
            }
        }
        if ($line->gap !== null && $other->gap !== null) {
            self::assertFalse(self::meet($line->gap, $other->gap), "$which: their numbers meet");
        }
    }

    /** @return list<Box> without width or height */
    private static function pieces(Line $line): array
    {
        $pieces = [];
        for ($i = 1; $i < count($line->points); $i++) {
            [[$x, $y], [$u, $v]] = [$line->points[$i - 1], $line->points[$i]];
            self::assertTrue($x === $u || $y === $v, 'pieces are level or upright');
            $pieces[] = new Box(min($x, $u), min($y, $v), abs($x - $u), abs($y - $v));
        }

        return $pieces;
    }

    private static function overlap(int $a, int $b, int $c, int $d): bool
    {
        return max($a, $c) < min($b, $d);
    }

    /** Whether insides meet; touching sides do not. */
    private static function meet(Box $a, Box $b): bool
    {
        return $a->x < $b->right() && $b->x < $a->right() && $a->y < $b->bottom() && $b->y < $a->bottom();
    }

    private static function within(Box $a, Box $b): bool
    {
        return $a->x >= $b->x && $a->y >= $b->y && $a->right() <= $b->right() && $a->bottom() <= $b->bottom();
    }
}
