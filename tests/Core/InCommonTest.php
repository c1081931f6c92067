<?php

namespace Tests\Core;

use Baggage\Core\Rows\InCommon;
use PHPUnit\Framework\TestCase;

final class InCommonTest extends TestCase
{
    public function test_what_is_unusual_is_told_and_what_is_everywhere_is_not(): void
    {
        $all = [];
        for ($i = 0; $i < 1000; $i++) {
            $all[] = ["K$i", $i % 10 === 0 ? 'Ines' : 'Olaf', sprintf('%02d/03/%d', 1 + $i % 28, $i % 20 === 0 ? 1998 : 2005), 'open'];
        }
        $some = array_values(array_filter($all, fn (array $r) => $r[1] === 'Ines' && str_ends_with($r[2], '1998')));
        $found = InCommon::of($some, $all, [0], 6);
        self::assertSame(
            [[1, 'Ines', 50, 50, 100], [2, '1998 …', 50, 50, 50]],
            array_map(fn (InCommon $c) => [$c->position, $c->value, $c->n, $c->of, $c->all], self::byPosition($found)),
        );
        self::assertSame([], InCommon::of(array_slice($all, 0, 2), $all, [], 6), 'two rows are no pattern');
        self::assertSame([], InCommon::of($all, $all, [], 6));
    }

    /** Ted Dunning's "the swiss bank" style table; worked by hand: 2·Σ O·ln(O/E) for O = 10, 0, 10, 80. */
    public function test_how_sure_it_is_follows_the_formula(): void
    {
        // Expected by margins 10, 90 and 20, 80 of 100: 2, 8, 18, 72.
        $byHand = 2 * (10 * log(10 / 2) + 10 * log(10 / 18) + 80 * log(80 / 72));
        self::assertEqualsWithDelta($byHand, InCommon::surprise(10, 10, 20, 100), 1e-9);
        self::assertEqualsWithDelta(0.0, InCommon::surprise(5, 50, 10, 100), 1e-9);
    }

    /**
     * @param  list<InCommon>  $found
     * @return list<InCommon>
     */
    private static function byPosition(array $found): array
    {
        usort($found, fn (InCommon $a, InCommon $b) => $a->position <=> $b->position);

        return $found;
    }
}
