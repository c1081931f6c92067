<?php

namespace Baggage\Core\Reconciling;

/** Port: where what is counted goes that may be more than fits in memory. */
interface TotalStore
{
    /**
     * Adds to the groups of a total.
     *
     * @param  non-empty-array<array-key, Figures>  $groups  by name
     */
    public function groups(int $total, array $groups): void;

    /** A side that means both. */
    public const BOTH = 'both';

    /** A value of a total of different values; the side is legacy, target or both. */
    public function value(int $total, string $side, string $group, string $value): void;

    /**
     * A row that says something else than its record.
     *
     * @param  string|null  $legacy  what the row counts with there; null where it does not
     * @param  string|null  $target  what the record does
     */
    public function differs(int $total, int $load, int $row, string $group, ?string $legacy, ?string $target): void;
}
