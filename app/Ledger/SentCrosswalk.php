<?php

namespace App\Ledger;

use Baggage\Core\Loading\CrosswalkStore;
use Baggage\Core\Loading\KeyState;

/** The key crosswalk as rows found it when they were sent: a record that is about to go was there then. */
final readonly class SentCrosswalk implements CrosswalkStore
{
    public function __construct(private CrosswalkStore $crosswalk)
    {
    }

    public function states(string $entity, string $space, array $keys): array
    {
        return array_map(
            fn (KeyState $s) => $s->record() === $s->stood()
                ? $s
                : new KeyState($s->outcome, $s->stood(), $s->load, $s->row, $s->rootCause, $s->why, $s->isGone),
            $this->crosswalk->states($entity, $space, $keys),
        );
    }

    public function holders(string $entity, array $keys): array
    {
        return $this->crosswalk->holders($entity, $keys);
    }
}
