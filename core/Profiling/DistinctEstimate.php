<?php

namespace Baggage\Core\Profiling;

/**
 * Estimates how many different values there are with 2^14 registers of six bits and more, whatever their number.
 *
 * HyperLogLog: P. Flajolet, É. Fusy, O. Gandouet, F. Meunier, "HyperLogLog: the analysis of a near-optimal cardinality
 * estimation algorithm", AofA 2007. Its standard error is 1.04 / sqrt(2^14) = 0.81 %. The 64-bit hash makes the correction
 * for large numbers needless; small numbers are counted linearly.
 */
final class DistinctEstimate
{
    private const BITS = 14;

    private const REGISTERS = 1 << self::BITS;

    /** One standard error, as a share of the number. */
    public const ERROR = 0.0081;

    private string $registers;

    public function __construct()
    {
        $this->registers = str_repeat("\0", self::REGISTERS);
    }

    /** @param  iterable<string|int>  $values */
    public function add(iterable $values): void
    {
        $hashes = '';
        foreach ($values as $value) {
            $hashes .= hash('xxh3', (string) $value, true);
        }
        foreach (unpack('J*', $hashes) ?: [] as $hash) {
            $at = $hash & (self::REGISTERS - 1);
            $rest = ($hash >> self::BITS) & ((1 << 50) - 1);
            $known = ord($this->registers[$at]);
            // The rank is one more than the zeros at the end of the other fifty bits; seldom one is higher than what is known.
            if (($rest & ((1 << $known) - 1)) === 0) {
                for ($rank = 1; $rank < 51 && ($rest & 1) === 0; $rest >>= 1) {
                    $rank++;
                }
                $this->registers[$at] = chr(max($known, $rank));
            }
        }
    }

    public function estimate(): int
    {
        $sum = 0.0;
        $zero = 0;
        foreach (count_chars($this->registers, 1) as $rank => $n) {
            $sum += $n * 2.0 ** -$rank;
            $zero += $rank === 0 ? $n : 0;
        }
        $m = self::REGISTERS;
        $estimate = ((0.7213 / (1 + 1.079 / $m)) * $m * $m) / $sum;

        return (int) round($estimate <= 2.5 * $m && $zero > 0 ? $m * log($m / $zero) : $estimate);
    }
}
