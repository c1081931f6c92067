<?php

namespace Baggage\Core\Profiling;

/** Counts one column as its cells go by: filled and distinct values, exact up to a bound. */
final class ColumnTally
{
    /** Values counted one by one; a column with more is not a code column. */
    public const BOUND = 1000;

    /** Longest value counted, in bytes. */
    private const LONGEST = 190;

    public int $filled = 0;

    /** @var array<array-key, int>|null null once the bound is passed */
    public ?array $counts = [];

    /** @var list<string> the first values met that differ */
    public array $examples = [];

    public function add(?string $cell): void
    {
        if ($cell === null || $cell === '' || ctype_space($cell)) {
            return;
        }
        $this->filled++;
        if ($this->counts === null) {
            return;
        }
        if (isset($this->counts[$cell])) {
            $this->counts[$cell]++;

            return;
        }
        if (count($this->examples) < 3) {
            $this->examples[] = mb_strcut($cell, 0, 60);
        }
        if (count($this->counts) >= self::BOUND || strlen($cell) > self::LONGEST) {
            $this->counts = null;

            return;
        }
        $this->counts[$cell] = 1;
    }
}
