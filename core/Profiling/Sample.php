<?php

namespace Baggage\Core\Profiling;

/** Every nth row of a table, where n doubles whenever there are too many: the same rows whatever pieces the table comes in. */
final class Sample
{
    /** @var array<int, list<string|null>> row number → cells */
    private array $rows = [];

    private int $step = 1;

    /** @param  int  $most  rows that are kept */
    public function __construct(private readonly int $most)
    {
    }

    /**
     * @param  list<int>  $numbers
     * @param  list<list<string|null>>  $rows
     */
    public function add(array $numbers, array $rows): void
    {
        foreach ($numbers as $i => $number) {
            if ($number % $this->step === 0) {
                $this->rows[$number] = $rows[$i];
                if (count($this->rows) > $this->most) {
                    $this->step *= 2;
                    $this->rows = array_filter($this->rows, fn (int $n) => $n % $this->step === 0, ARRAY_FILTER_USE_KEY);
                }
            }
        }
    }

    /** @return list<string|null> cells of a column */
    public function column(int $position): array
    {
        return array_map(fn (array $cells) => $cells[$position] ?? null, array_values($this->rows));
    }
}
