<?php

namespace App\View\Tables;

/** What somebody typed over a column to see some of its rows. */
final readonly class Test
{
    public const NUMBERS = 'a number; >5, <5, 5..20; = for none';

    public const TEXTS = 'part of it; =exactly; = for none';

    private function __construct(private string $typed, private bool $isNumber)
    {
    }

    public static function of(string $typed, bool $isNumber): ?self
    {
        return trim($typed) === '' ? null : new self(trim($typed), $isNumber);
    }

    public function fits(string|int|float|null $value): bool
    {
        if ($this->typed === '=') {
            return $value === null || $value === '';
        }

        return $this->isNumber ? $this->fitsNumber($value) : $this->fitsText((string) $value);
    }

    private function fitsText(string $value): bool
    {
        return str_starts_with($this->typed, '=')
            ? $value === ltrim(substr($this->typed, 1))
            : mb_stripos($value, $this->typed) !== false;
    }

    private function fitsNumber(string|int|float|null $value): bool
    {
        $number = '(-?\d+(?:\.\d+)?)';
        $typed = str_replace([',', ' '], '', $this->typed);

        return match (true) {
            $value === null || $value === '' => false,
            preg_match("/^$number\\.\\.$number$/", $typed, $m) === 1 => $value >= (float) $m[1] && $value <= (float) $m[2],
            preg_match("/^(>=|<=|>|<|=)?$number$/", $typed, $m) === 1 => match ($m[1]) {
                '>' => $value > (float) $m[2],
                '<' => $value < (float) $m[2],
                '>=' => $value >= (float) $m[2],
                '<=' => $value <= (float) $m[2],
                default => (float) $value === (float) $m[2],
            },
            default => false,
        };
    }
}
