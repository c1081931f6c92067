<?php

namespace App\Reckoning;

use App\Ledger\CountedLines;
use Baggage\Core\Reconciling\Sample;

/** Which rows are compared: all of some loads, or a sample drawn from all of them together. */
final readonly class Chosen
{
    private const AT_ONCE = 20_000;

    /**
     * @param  int  $of  rows that can be compared
     * @param  int  $looked  those that are
     * @param  array<int, list<int>|null>  $rows  load → rows; null for all of them
     */
    private function __construct(public int $of, public int $looked, private array $rows)
    {
    }

    /**
     * @param  array<string, mixed>  $asked  sample: how many, seed; all without
     * @param  array<int, bool>  $loads  load → whether it sends what an unchanged record has to say too
     */
    public static function of(array $asked, CountedLines $lines, array $loads): self
    {
        $there = [];
        foreach ($loads as $load => $unchanged) {
            $there[$load] = $lines->comparableRows($load, $unchanged);
        }
        $of = array_sum($there);
        if (($asked['sample'] ?? null) === null) {
            return new self($of, $of, array_fill_keys(array_keys($loads), null));
        }
        $places = Sample::draw($of, (int) $asked['sample'], (int) ($asked['seed'] ?? 0));
        $rows = [];
        $first = 0;
        foreach ($there as $load => $n) {
            $own = array_values(array_filter($places, fn (int $p) => $p >= $first && $p < $first + $n));
            $rows[$load] = self::at($lines, $load, array_map(fn (int $p) => $p - $first, $own), $loads[$load]);
            $first += $n;
        }

        return new self($of, count($places), array_filter($rows, fn (array $r) => $r !== []));
    }

    /**
     * @param  list<int>  $places  among the rows of a load that can be compared, in their order
     * @return list<int> row numbers
     */
    private static function at(CountedLines $lines, int $load, array $places, bool $unchanged): array
    {
        $rows = [];
        $next = 0;
        for ($seen = 0, $after = 0; $next < count($places); $seen += count($some), $after = end($some)) {
            $some = $lines->comparable($load, $after, self::AT_ONCE, $unchanged);
            if ($some === []) {
                break;
            }
            for (; $next < count($places) && count($some) > $places[$next] - $seen; $next++) {
                $rows[] = $some[$places[$next] - $seen];
            }
        }

        return $rows;
    }

    public function has(int $load): bool
    {
        return array_key_exists($load, $this->rows);
    }

    /** @return list<int>|null null for all of the load */
    public function rows(int $load): ?array
    {
        return $this->rows[$load] ?? null;
    }
}
