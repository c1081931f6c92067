<?php

namespace App\Ledger;

use Baggage\Core\Loading\StandingRows;

/** What rows of a load stand on, read from the ledger. */
final readonly class LedgerStanding implements StandingRows
{
    public function __construct(private LedgerReader $reader, private int $load)
    {
    }

    public function of(array $rows): array
    {
        return $this->reader->standingOn($this->load, $rows);
    }
}
