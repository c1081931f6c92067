<?php

namespace App\Ledger;

/** A record a load of the round made or took, by its match key. */
final readonly class MatchEntry
{
    public function __construct(
        public string $key,
        public string $targetKey,
        public int $load,
        public int $row,
    ) {
    }
}
