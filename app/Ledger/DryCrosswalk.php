<?php

namespace App\Ledger;

use Baggage\Core\Loading\CrosswalkStore;
use Baggage\Core\Loading\Holder;
use Baggage\Core\Loading\KeyState;
use Baggage\Core\Rows\Outcome;

/** The key crosswalk as a dry run would leave it: what it says of a row counts instead of what the ledger says. */
final readonly class DryCrosswalk implements CrosswalkStore
{
    /** @param  LedgerReader|null  $ledger  null before the first pass of a round */
    public function __construct(private ?LedgerReader $ledger, private DryRows $dry, private Spaces $spaces)
    {
    }

    public function states(string $entity, string $space, array $keys): array
    {
        $id = $this->spaces->find($entity, $space);
        if ($keys === [] || $id === null) {
            return [];
        }
        $states = [];
        foreach ($this->dry->states($id, $keys) as [$key, $state]) {
            $states[$key] = KeyState::better($states[$key] ?? null, $state);
        }
        $lines = $this->ledger?->keys($id, $keys) ?? [];
        $said = $this->dry->among(array_map(fn (array $line) => [(int) $line[3], (int) $line[4]], $lines));
        foreach ($lines as [$key, $outcome, $target, $load, $row, $cause, $why, $isGone, $isLeaving]) {
            if (! isset($said["$load $row"])) {
                $cause = $cause === null ? null : (int) $cause;
                $states[$key] = KeyState::better($states[$key] ?? null, new KeyState(
                    Outcome::from($outcome), $target, (int) $load, (int) $row, $cause, $why, $isGone, $isLeaving,
                ));
            }
        }

        return $states;
    }

    public function holders(string $entity, array $keys): array
    {
        $spaces = $this->spaces->among([$entity], null);
        $lines = $this->ledger?->holders($spaces, $keys) ?? [];
        $said = $this->dry->among(array_map(fn (array $line) => [(int) $line[2], (int) $line[3]], $lines));
        $lines = array_filter($lines, fn (array $line) => ! isset($said["$line[2] $line[3]"]));
        $holders = [];
        foreach ([...$lines, ...$this->dry->holders($spaces, $keys)] as [$target, $outcome, $load, $row, $key, $isGone]) {
            // One that is delivered gives way to none that is not.
            if (! $isGone || ! isset($holders[$target])) {
                $holders[$target] = new Holder((int) $load, (int) $row, (string) $key, Outcome::from($outcome), $isGone);
            }
        }

        return $holders;
    }
}
