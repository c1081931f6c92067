<?php

namespace Baggage\Core\Profiling;

/** How many different values all columns of one table together may count one by one. */
final class ValueBudget
{
    public function __construct(private int $left = 300_000)
    {
    }

    public function take(): bool
    {
        return $this->left-- > 0;
    }
}
