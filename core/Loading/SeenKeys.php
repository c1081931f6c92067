<?php

namespace Baggage\Core\Loading;

/**
 * Remembers keys in little memory: a Bloom filter (Bloom, 1970) of 16 bits a key and 4 probes, so about 1 of 400
 * unseen keys is taken for seen; those are then asked of the crosswalk. It never takes a seen key for unseen.
 */
final class SeenKeys
{
    private function __construct(private string $bits, private readonly int $mask)
    {
    }

    public static function expecting(int $keys): self
    {
        $size = 1 << max(13, (int) ceil(log(max(1, $keys) * 16, 2)));

        return new self(str_repeat("\0", $size >> 3), $size - 1);
    }

    /** Adds the key; true when it may have been added before. */
    public function add(string $key): bool
    {
        $hash = unpack('V4', hash('xxh128', $key, true)) ?: [];
        $seen = true;
        foreach ($hash as $probe) {
            $bit = $probe & $this->mask;
            $byte = $bit >> 3;
            $flag = 1 << ($bit & 7);
            $old = ord($this->bits[$byte]);
            if (($old & $flag) === 0) {
                $seen = false;
                $this->bits[$byte] = chr($old | $flag);
            }
        }

        return $seen;
    }
}
