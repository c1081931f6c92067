<?php

namespace Baggage\Core\Reconciling;

use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;

/** Records drawn at random, the same for the same seed. */
final class Sample
{
    /**
     * Each of the records there are with the same chance, none twice (R. Floyd's algorithm, Communications of the ACM 30(9), 1987).
     *
     * @return list<int> places among all of them, from 0, in their order
     */
    public static function draw(int $of, int $most, int $seed): array
    {
        if ($most >= $of) {
            return $of === 0 ? [] : range(0, $of - 1);
        }
        $random = new Randomizer(new Xoshiro256StarStar($seed));
        $drawn = [];
        for ($j = $of - $most; $j < $of; $j++) {
            $t = $random->getInt(0, $j);
            $drawn[isset($drawn[$t]) ? $j : $t] = true;
        }
        ksort($drawn);

        return array_keys($drawn);
    }
}
