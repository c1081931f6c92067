<?php

namespace Baggage\Core\Profiling;

/** The smallest and largest value of a column as text, as a number and as a date: which of them counts is known once all have gone by. */
final class Extremes
{
    private ?string $first = null;

    private ?string $last = null;

    private ?float $least = null;

    private ?float $most = null;

    private string $leastText = '';

    private string $mostText = '';

    /** @var array<string, array<int, array{int, string}>> order of day, month and year → earliest and latest */
    private array $dates = [];

    /** @param  list<array-key>  $cells  not blank */
    public function texts(array $cells): void
    {
        if ($cells === []) {
            return;
        }
        [$first, $last] = [$this->first ?? (string) $cells[0], $this->last ?? (string) $cells[0]];
        foreach ($cells as $cell) {
            $cell = (string) $cell;
            if (strcmp($cell, $first) < 0) {
                $first = $cell;
            } elseif (strcmp($cell, $last) > 0) {
                $last = $cell;
            }
        }
        [$this->first, $this->last] = [$first, $last];
    }

    public function date(string $cell): void
    {
        foreach (DateShape::sortables($cell) as $order => $key) {
            $known = $this->dates[$order] ?? null;
            if ($known === null) {
                $this->dates[$order] = [[$key, $cell], [$key, $cell]];
            } elseif ($key < $known[0][0]) {
                $this->dates[$order][0] = [$key, $cell];
            } elseif ($key > $known[1][0]) {
                $this->dates[$order][1] = [$key, $cell];
            }
        }
    }

    /**
     * @param  list<string>  $cells  that read as numbers
     * @param  list<string>  $signs  what is no sign of a number in PHP
     * @param  list<string>  $as  what stands for them there
     */
    public function numbers(array $cells, array $signs, array $as): void
    {
        if ($cells === []) {
            return;
        }
        $numbers = array_map(floatval(...), ctype_digit(implode('', $cells)) ? $cells : self::plain($cells, $signs, $as));
        [$least, $most] = [min($numbers), max($numbers)];
        if ($this->least === null || $least < $this->least) {
            [$this->least, $this->leastText] = [$least, $cells[(int) array_search($least, $numbers, true)]];
        }
        if ($this->most === null || $most > $this->most) {
            [$this->most, $this->mostText] = [$most, $cells[(int) array_search($most, $numbers, true)]];
        }
    }

    /**
     * @param  non-empty-list<string>  $cells
     * @param  list<string>  $signs
     * @param  list<string>  $as
     * @return non-empty-array<string> as PHP reads numbers
     */
    private static function plain(array $cells, array $signs, array $as): array
    {
        $numbers = str_replace($signs, $as, $cells);
        foreach (preg_grep('/-\s*$/', $numbers) ?: [] as $i => $number) {
            $numbers[$i] = '-'.trim($number, '+- ');
        }

        return $numbers;
    }

    /** @return array{string|null, string|null} smallest and largest, as the column has them */
    public function of(Inference $inference): array
    {
        if ($inference->type === 'whole' || $inference->type === 'decimal') {
            return [$this->leastText, $this->mostText];
        }
        if ($inference->type === 'date') {
            $known = $this->dates[strtolower($inference->detail[0] ?? 'y')] ?? null;

            return [$known[0][1] ?? null, $known[1][1] ?? null];
        }

        return [$this->first, $this->last];
    }
}
