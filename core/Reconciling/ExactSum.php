<?php

namespace Baggage\Core\Reconciling;

use Brick\Math\BigDecimal;

/**
 * Adds decimals exactly, fast where they are short: whole numbers of the machine per number of decimals, and only what does not fit
 * these as big ones.
 */
final class ExactSum
{
    private const NUMBER = '/^[+-]?(?:\d+\.?\d*|\.\d+)$/D';

    /** Decimals and digits a number may have to be added as a whole number of the machine. */
    private const SHORT = 15;

    private const LIMIT = 1 << 61;

    /** Sum of all with so many decimals, in units of their last place. */
    private int $units = 0;

    private int $scale = 0;

    /** @var array<int, int>|null the same of other numbers of decimals */
    private ?array $others = null;

    private ?BigDecimal $rest = null;

    /** Whether it is what can be added: digits with at most a sign and a point. */
    public static function isNumber(string $text): bool
    {
        return preg_match(self::NUMBER, $text) === 1;
    }

    public function add(string $number): void
    {
        if (strlen($number) > self::SHORT) {
            $this->rest = ($this->rest ?? BigDecimal::zero())->plus($number);

            return;
        }
        $point = strpos($number, '.');
        if ($point === false) {
            $this->units(0, (int) $number);
        } else {
            $this->units(strlen($number) - $point - 1, (int) (substr($number, 0, $point).substr($number, $point + 1)));
        }
    }

    public function take(string $number): void
    {
        $this->add(str_starts_with($number, '-') ? substr($number, 1) : '-'.ltrim($number, '+'));
    }

    public function merge(self $other): void
    {
        foreach ($other->all() as $scale => $units) {
            $this->units($scale, $units);
        }
        if ($other->rest !== null) {
            $this->rest = ($this->rest ?? BigDecimal::zero())->plus($other->rest);
        }
    }

    /** Takes all of another sum away. */
    public function less(self $other): void
    {
        foreach ($other->all() as $scale => $units) {
            $this->units($scale, -$units);
        }
        if ($other->rest !== null) {
            $this->rest = ($this->rest ?? BigDecimal::zero())->minus($other->rest);
        }
    }

    private function units(int $scale, int $more): void
    {
        if ($this->units === 0) {
            $this->scale = $scale;
        }
        $units = ($scale === $this->scale ? $this->units : $this->others[$scale] ?? 0) + $more;
        if ($units > self::LIMIT || $units < -self::LIMIT) {
            $this->rest = ($this->rest ?? BigDecimal::zero())->plus(BigDecimal::ofUnscaledValue($units, $scale));
            $units = 0;
        }
        if ($scale === $this->scale) {
            $this->units = $units;
        } else {
            $this->others[$scale] = $units;
        }
    }

    /** @return array<int, int> decimals → sum in units of their last place */
    private function all(): array
    {
        $all = $this->others ?? [];
        $all[$this->scale] = ($all[$this->scale] ?? 0) + $this->units;

        return array_filter($all);
    }

    /** As few decimals as say it. */
    public function total(): string
    {
        if ($this->rest === null && $this->others === null) {
            return self::short($this->units, $this->scale);
        }
        $sum = $this->rest ?? BigDecimal::zero();
        foreach ($this->all() as $scale => $units) {
            $sum = $sum->plus(BigDecimal::ofUnscaledValue($units, $scale));
        }

        return self::plain($sum);
    }

    /** Units of a last place as a decimal. */
    private static function short(int $units, int $scale): string
    {
        if ($scale === 0) {
            return (string) $units;
        }
        $digits = str_pad((string) abs($units), $scale + 1, '0', STR_PAD_LEFT);
        $decimals = rtrim(substr($digits, -$scale), '0');

        return ($units < 0 ? '-' : '').substr($digits, 0, -$scale).($decimals === '' ? '' : ".$decimals");
    }

    public static function plain(BigDecimal $number): string
    {
        return $number->isZero() ? '0' : (string) $number->stripTrailingZeros()->toScale(max(0, $number->stripTrailingZeros()->getScale()));
    }
}
