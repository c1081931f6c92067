<?php

namespace App\Ledger;

use App\Models\Lane;
use Baggage\Core\Loading\CrosswalkStore;
use Baggage\Core\Loading\Pairs;
use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Mapping\LoadDefinition;

/**
 * Rows are the records an earlier round in the same target made of their legacy keys, as far as these are there; what people said of a
 * row comes first.
 */
final readonly class EarlierPairs implements Pairs
{
    private function __construct(
        private Pairs $said,
        private LoadDefinition $load,
        private CrosswalkStore $earlier,
        private TargetRecords $records,
    ) {
    }

    /** @param  Lane|null  $earlier  whose key crosswalk is taken over; null for none */
    public static function beside(Pairs $said, LoadDefinition $load, ?Lane $earlier, Spaces $spaces, TargetRecords $records): Pairs
    {
        $round = $load->reads() ? null : $earlier?->round;

        return $round === null ? $said : new self($said, $load, new LedgerCrosswalk(new LedgerReader($round), $spaces), $records);
    }

    public function of(array $journeys): array
    {
        $found = $this->said->of($journeys);
        $keys = [];
        foreach ($journeys as $journey) {
            if (! isset($found[$journey->row]) && $journey->legacyKey !== '') {
                $keys[$journey->row] = $journey->legacyKey;
            }
        }
        $entity = $this->load->entity;
        $known = $keys === [] ? [] : $this->earlier->states($entity->name, $this->load->space, array_values(array_unique($keys)));
        $targets = array_filter(array_map(fn (string $key) => ($known[$key] ?? null)?->record(), $keys), fn (?string $t) => $t !== null);
        $there = $targets === [] ? [] : $this->records->byKeys($entity, array_values(array_unique($targets)));

        return $found + array_filter($targets, fn (string $target) => isset($there[$target]));
    }
}
