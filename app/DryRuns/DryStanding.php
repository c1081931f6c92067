<?php

namespace App\DryRuns;

use App\Ledger\DryRows;
use App\Ledger\LedgerReader;
use Baggage\Core\Loading\StandingRows;

/** What rows of a load stand on, as a dry run would leave it: those it let give up their record stand on nothing. */
final readonly class DryStanding implements StandingRows
{
    public function __construct(private LedgerReader $ledger, private DryRows $rows, private int $load)
    {
    }

    public function of(array $rows): array
    {
        $standing = $this->ledger->standingOn($this->load, $rows);
        $said = $standing === [] ? [] : $this->rows->among(array_map(fn (int $row) => [$this->load, $row], array_keys($standing)));

        return array_filter($standing, fn (int $row) => ! isset($said["$this->load $row"]), ARRAY_FILTER_USE_KEY);
    }
}
