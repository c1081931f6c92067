<?php

namespace App\Ledger;

use Baggage\Core\Loading\CrosswalkStore;
use Baggage\Core\Loading\Holder;
use Baggage\Core\Loading\KeyState;
use Baggage\Core\Rows\Outcome;

/** The key crosswalk of one round, read from the ledger of outcomes. */
final class LedgerCrosswalk implements CrosswalkStore
{
    /** @param  list<int>  $late  spaces with keys that are announced while a pass lasts */
    public function __construct(private readonly LedgerReader $ledger, private readonly Spaces $spaces, private readonly array $late = [])
    {
    }

    public function states(string $entity, string $source, array $keys): array
    {
        $space = $this->spaces->find($entity, $source);
        if ($keys === [] || $space === null) {
            return [];
        }
        $states = [];
        foreach ($this->ledger->keys($space, $keys) as [$key, $outcome, $target, $load, $row, $cause, $why, $isGone, $isLeaving]) {
            $states[$key] = KeyState::better($states[$key] ?? null, new KeyState(
                Outcome::from($outcome),
                $target,
                (int) $load,
                (int) $row,
                $cause === null ? null : (int) $cause,
                $why,
                $isGone,
                $isLeaving,
            ));
        }

        return in_array($space, $this->late, true)
            ? $states + LateKeys::states($this->ledger->lane(), $space, array_values(array_filter($keys, fn ($k) => ! isset($states[$k]))))
            : $states;
    }

    public function holders(string $entity, array $keys): array
    {
        $holders = [];
        foreach ($this->ledger->holders($this->spaces->among([$entity], null), $keys) as [$target, $outcome, $load, $row, $key, $isGone]) {
            // One that is delivered gives way to none that is not.
            if (! $isGone || ! isset($holders[$target])) {
                $holders[$target] = new Holder((int) $load, (int) $row, $key, Outcome::from($outcome), $isGone);
            }
        }

        return $holders;
    }
}
