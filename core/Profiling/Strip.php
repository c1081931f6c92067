<?php

namespace Baggage\Core\Profiling;

/** How the dates, amounts, values or lengths of a column lie, in so few bars that they fit beside a figure. */
final readonly class Strip
{
    private const BARS = 15;

    /** Of the ends, so much is piled on the outermost bars: one wild value would press all others together. */
    private const ENDS = 0.01;

    /**
     * @param  string  $kind  'dates', 'amounts', 'values' or 'lengths'
     * @param  list<int>  $bars  cells in each
     * @param  string  $from  where the first bar begins; of values the most frequent
     * @param  string  $to  where the last one ends
     */
    private function __construct(public string $kind, public array $bars, public string $from, public string $to)
    {
    }

    /** @param  list<string|null>  $cells  of rows spread over the table */
    public static function of(array $cells, Inference $type): ?self
    {
        $filled = array_values(array_filter($cells, fn (?string $c) => $c !== null && trim($c) !== ''));
        if (count($filled) < 2) {
            return null;
        }
        $numbers = match ($type->type) {
            'date' => self::dates($filled, explode('|', $type->detail)[0]),
            'whole', 'decimal' => self::amounts($filled, $type->detail),
            default => [],
        };
        if ($numbers !== [] && count($numbers) * 2 > count($filled)) {
            $name = $type->type === 'date' ? fn (float $n) => (string) (int) floor($n) : self::amount(...);

            return self::spread($type->type === 'date' ? 'dates' : 'amounts', $numbers, $name);
        }
        $counts = array_count_values($filled);

        return count($counts) <= self::BARS
            ? self::values($counts)
            : self::spread('lengths', array_map(fn (string $c) => (float) mb_strlen($c), $filled), fn (float $n) => (string) (int) $n);
    }

    /** @return array{kind: string, bars: list<int>, from: string, to: string} */
    public function toArray(): array
    {
        return ['kind' => $this->kind, 'bars' => $this->bars, 'from' => $this->from, 'to' => $this->to];
    }

    /** @param  non-empty-array<array-key, int>  $counts */
    private static function values(array $counts): self
    {
        arsort($counts);
        $names = array_map(strval(...), array_keys($counts));

        return new self('values', array_values($counts), $names[0], $names[count($names) - 1]);
    }

    /**
     * @param  non-empty-list<float>  $numbers
     * @param  \Closure(float): string  $name
     */
    private static function spread(string $kind, array $numbers, \Closure $name): self
    {
        sort($numbers);
        $last = count($numbers) - 1;
        [$from, $to] = [$numbers[(int) floor($last * self::ENDS)], $numbers[(int) ceil($last * (1 - self::ENDS))]];
        $bars = array_fill(0, self::BARS, 0);
        foreach ($numbers as $n) {
            $at = $to > $from ? (int) (($n - $from) / ($to - $from) * self::BARS) : 0;
            $bars[max(0, min(self::BARS - 1, $at))]++;
        }

        return new self($kind, $bars, $name($from), $name($to));
    }

    private static function amount(float $n): string
    {
        return rtrim(rtrim(number_format($n, 2, '.', ''), '0'), '.');
    }

    /**
     * @param  list<string>  $cells
     * @return list<float> as years; those that are no dates, or stand for none, are left out
     */
    private static function dates(array $cells, string $format): array
    {
        $order = strtolower($format[0] ?? 'y');
        $years = [];
        foreach ($cells as $cell) {
            $number = DateShape::sortables($cell)[$order] ?? null;
            if ($number !== null && (DateShape::marks($cell) & Mark::SENTINEL_DATE) === 0) {
                $years[] = intdiv($number, 10_000) + (intdiv($number, 100) % 100 - 1) / 12 + ($number % 100 - 1) / 372;
            }
        }

        return $years;
    }

    /**
     * @param  list<string>  $cells
     * @return list<float>
     */
    private static function amounts(array $cells, string $sign): array
    {
        $numbers = [];
        foreach ($cells as $cell) {
            $plain = str_replace([' ', "\u{A0}", "'", $sign === ',' ? '.' : ','], '', trim($cell));
            $plain = str_replace(',', '.', $plain);
            // Old packages write the minus last.
            $plain = preg_replace('/^(.*)-$/', '-$1', $plain);
            if (is_numeric($plain)) {
                $numbers[] = (float) $plain;
            }
        }

        return $numbers;
    }
}
