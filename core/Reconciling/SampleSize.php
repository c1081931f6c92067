<?php

namespace Baggage\Core\Reconciling;

/**
 * How many records have to be looked at so that one that is wrong would be seen, if too many were: discovery sampling, the sample none
 * of which may be wrong. The chance that none of n drawn without putting back is among D wrong ones of N is hypergeometric,
 * C(N − D, n) / C(N, n); n is the smallest that brings it to 1 − confidence or below.
 */
final class SampleSize
{
    /**
     * @param  int  $of  records there are
     * @param  float  $confidence  above 0, below 1
     * @param  float  $share  of them that may be wrong at the most, above 0, below 1
     */
    public static function of(int $of, float $confidence, float $share): int
    {
        // Products such as 1000 × 0.05 are not whole in binary.
        $wrong = min($of, (int) ceil(round($of * $share, 9)));
        if ($of === 0 || $wrong === 0) {
            return $of;
        }
        $most = log(1 - $confidence) + 1e-12;
        $chance = 0.0;
        for ($n = 0; $n < $of - $wrong; $n++) {
            if ($chance <= $most) {
                return $n;
            }
            $chance += log(($of - $wrong - $n) / ($of - $n));
        }

        return $chance <= $most ? $n : $of - $wrong + 1;
    }

    /**
     * The share of wrong records that a sample without any would have shown with a confidence.
     *
     * @return float of all; 0 where all were looked at
     */
    public static function shown(int $of, int $looked, float $confidence): float
    {
        if ($looked >= $of) {
            return 0.0;
        }
        [$low, $high] = [0, $of];
        while ($high - $low > 1) {
            $wrong = intdiv($low + $high, 2);
            $chance = 0.0;
            for ($i = 0; $i < $wrong && $of - $looked - $i > 0; $i++) {
                $chance += log(($of - $looked - $i) / ($of - $i));
            }
            $isSeen = $of - $looked < $wrong || $chance <= log(1 - $confidence);
            $isSeen ? $high = $wrong : $low = $wrong;
        }

        return $high / $of;
    }
}
