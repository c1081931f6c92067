<?php

namespace Baggage\Core\Loading;

/**
 * Remembers claims in little memory: a Bloom filter (Bloom, 1970) of 32 bits a claim and 2 probes, so that fewer than 4 of 1,000
 * unseen claims are taken for seen (1 - e^(-2/32), squared); beyond the largest size it errs more often. It never takes a seen claim
 * for unseen.
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
        $size = min(self::MOST, 1 << max(13, (int) ceil(log(max(1, $claims) * 32, 2))));

        return new self(str_repeat("\0", $size >> 3), $size - 1);
    }

    /** @param  string  $claim  8 bytes of a hash; true when it may have been added before */
    public function add(string $claim): bool
    {
        $is = unpack('V2', $claim) ?: [0, 0, 0];
        [$one, $two] = [$is[1] & $this->mask, $is[2] & $this->mask];
        [$first, $second] = [$one >> 3, $two >> 3];
        [$bit, $other] = [1 << ($one & 7), 1 << ($two & 7)];
        $isNew = (ord($this->bits[$first]) & $bit) === 0 || (ord($this->bits[$second]) & $other) === 0;
        if ($isNew) {
            $this->bits[$first] = chr(ord($this->bits[$first]) | $bit);
            $this->bits[$second] = chr(ord($this->bits[$second]) | $other);
        }

        return ! $isNew;
    }
}
