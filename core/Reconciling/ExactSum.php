<?php

namespace Baggage\Core\Reconciling;

use Brick\Math\BigDecimal;

/**
 * Adds decimals exactly, fast where they are short: whole numbers of the machine per number of decimals, and only what does not fit
 * these as big ones.
 */
final class ExactSum
{
    /** Decimals and digits a number may have to be added as a whole number of the machine. */
    private const SHORT = 15;

    private const LIMIT = 1 << 61;

    /** @var array<int, int> decimals → sum in units of their last place */
    private array $units = [];

    private ?BigDecimal $rest = null;

    public function add(string $number): void
    {
        if (strlen($number) > self::SHORT) {
            $this->rest = ($this->rest ?? BigDecimal::zero())->plus($number);

            return;
        }
        $point = strpos($number, '.');
        $scale = $point === false ? 0 : strlen($number) - $point - 1;
        $units = ($this->units[$scale] ?? 0) + (int) ($point === false ? $number : substr($number, 0, $point).substr($number, $point + 1));
        if ($units > self::LIMIT || $units < -self::LIMIT) {
            $this->rest = ($this->rest ?? BigDecimal::zero())->plus(BigDecimal::ofUnscaledValue($units, $scale));
            $units = 0;
        }
        $this->units[$scale] = $units;
    }

    public function take(string $number): void
    {
        $this->add(str_starts_with($number, '-') ? substr($number, 1) : '-'.ltrim($number, '+'));
    }

    /** As few decimals as say it. */
    public function total(): string
    {
        $sum = $this->rest ?? BigDecimal::zero();
        foreach ($this->units as $scale => $units) {
            $sum = $sum->plus(BigDecimal::ofUnscaledValue($units, $scale));
        }

        return self::plain($sum);
    }

    public static function plain(BigDecimal $number): string
    {
        return $number->isZero() ? '0' : (string) $number->stripTrailingZeros()->toScale(max(0, $number->stripTrailingZeros()->getScale()));
    }
}
