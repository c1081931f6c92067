<?php

namespace App\Reckoning;

use Baggage\Core\Reconciling\CountedRow;

/** Some rows of one load as they are counted, with what the ledger says of them. */
final readonly class CountedPage
{
    /**
     * @param  list<CountedRow>  $rows
     * @param  array<int, array{outcome: string, target: string|null, pass: int, key: string}>  $lines  row → its line
     * @param  array<int, array{outcome: string, pass: int}>  $stood  row → what it stood as before, of those that do not as they are
     * @param  array<int, list<string|null>>  $now  row → cells, without blanks to fill it up
     */
    public function __construct(public array $rows, public array $lines, public array $stood, public array $now)
    {
    }
}
