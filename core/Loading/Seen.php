<?php

namespace Baggage\Core\Loading;

/**
 * Remembers claims in little memory: a Bloom filter (Bloom, 1970) of 16 bits a claim and 3 probes, so that about 5 of 1,000 unseen claims
 * are taken for seen (1 - e^(-3/16), cubed); beyond the largest size it errs more often. It never takes a seen claim for unseen. The third
 * probe is the sum of the others (A. Kirsch, M. Mitzenmacher, "Less hashing, same performance", ESA 2006).
 */
final class Seen
{
    /** Bits of the largest filter: 16 MB. */
    private const MOST = 1 << 27;

    private function __construct(private string $bits, private readonly int $mask)
    {
    }

    public static function expecting(int $claims): self
    {
        $size = min(self::MOST, 1 << max(13, (int) ceil(log(max(1, $claims) * 16, 2))));

        return new self(str_repeat("\0", $size >> 3), $size - 1);
    }

    /** @param  string  $claim  8 bytes of a hash; true when it may have been added before */
    public function add(string $claim): bool
    {
        $is = unpack('V2', $claim) ?: [0, 0, 0];
        $seen = true;
        foreach ([$is[1] & $this->mask, $is[2] & $this->mask, ($is[1] + $is[2]) & $this->mask] as $bit) {
            $byte = $bit >> 3;
            $old = ord($this->bits[$byte]);
            $flag = 1 << ($bit & 7);
            if (($old & $flag) === 0) {
                $this->bits[$byte] = chr($old | $flag);
                $seen = false;
            }
        }

        return $seen;
    }
}
