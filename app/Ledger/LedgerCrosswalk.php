<?php

namespace App\Ledger;

use Baggage\Core\Loading\CrosswalkStore;
use Baggage\Core\Loading\KeyState;
use Baggage\Core\Rows\Outcome;

/** The key crosswalk of one round, read from the ledger of outcomes. */
final class LedgerCrosswalk implements CrosswalkStore
{
    public function __construct(private readonly LedgerReader $ledger, private readonly Spaces $spaces)
    {
    }

    public function states(string $entity, string $source, array $keys): array
    {
        $space = $this->spaces->find($entity, $source);
        if ($keys === [] || $space === null) {
            return [];
        }
        $states = [];
        foreach ($this->ledger->keys($space, $keys) as [$key, $outcome, $target, $load, $row, $cause, $why]) {
            $states[$key] = KeyState::better($states[$key] ?? null, new KeyState(
                Outcome::from($outcome),
                $target,
                (int) $load,
                (int) $row,
                $cause === null ? null : (int) $cause,
                $why,
            ));
        }

        return $states;
    }
}
