<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Matching\MatchHit;
use Baggage\Core\Matching\MatchIndex;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\Stage;

/**
 * Decides what a record is to the target: new, an existing one, or another feed row's.
 *
 * Also guards the legacy key, which stands for one record only. With $seen every key of the round so far has gone
 * through this object, so only keys it may have met are asked of the crosswalk.
 */
final class Matcher
{
    public function __construct(
        private readonly LoadDefinition $load,
        private readonly CrosswalkStore $crosswalk,
        private readonly MatchIndex $index,
        private readonly ?SeenKeys $seen,
    ) {
    }

    /** @param  list<Journey>  $journeys */
    public function match(array $journeys): void
    {
        if ($this->load->reads()) {
            $this->findByKey($journeys);
        }
        $this->rejectRepeatedKeys($journeys);
        if ($this->load->matches !== []) {
            $this->findRecords($journeys);
        }
    }

    /**
     * Records are those the load's key space leads to; what is not there yet holds the row, as a parent does.
     *
     * @param  list<Journey>  $journeys
     */
    private function findByKey(array $journeys): void
    {
        $open = array_filter($journeys, fn (Journey $j) => $j->isOpen());
        if ($open === []) {
            return;
        }
        [$entity, $space] = [$this->load->entity->name, $this->load->space];
        $keys = array_values(array_map(fn (Journey $j) => $j->legacyKey, $open));
        $states = $this->crosswalk->states($entity, $space, $keys);
        foreach ($open as $journey) {
            $state = $states[$journey->legacyKey] ?? null;
            if ($state === null) {
                $this->rejectUnmatched($journey);
            } elseif ($state->targetKey !== null) {
                $journey->targetKey = $state->targetKey;
            } elseif ($state->isLeft()) {
                ParentResolver::leave($journey, null, $journey->legacyKey, $entity, $space, $state);
            } else {
                ParentResolver::hold($journey, null, $journey->legacyKey, $entity, $space, $state);
            }
        }
    }

    /** @param  list<Journey>  $journeys */
    private function rejectRepeatedKeys(array $journeys): void
    {
        $first = $ask = [];
        foreach ($journeys as $journey) {
            if (! $journey->isOpen()) {
                continue;
            }
            $key = $journey->legacyKey;
            if (isset($first[$key])) {
                $this->rejectRepeat($journey, $first[$key]);

                continue;
            }
            $first[$key] = $journey->row;
            if ($this->seen === null || $this->seen->add($key)) {
                $ask[$key] = $journey;
            }
        }
        if ($ask === []) {
            return;
        }
        $states = $this->crosswalk->states(
            $this->load->entity->name,
            $this->load->rowSpace(),
            array_map(strval(...), array_keys($ask)),
        );
        foreach ($ask as $key => $journey) {
            $state = $states[$key] ?? null;
            if (
                $state !== null
                && $state->targetKey !== null
                && ($state->row !== $journey->row || $state->load !== $this->load->id)
            ) {
                $this->rejectRepeat($journey, $state->row);
            }
        }
    }

    private function rejectRepeat(Journey $journey, int $row): void
    {
        $journey->reject(
            new Cause(
                Stage::Matching,
                'duplicate_key',
                null,
                LegacyKey::show($journey->legacyKey),
                "The legacy key is already used by row $row",
            ),
        );
    }

    private function rejectUnmatched(Journey $journey): void
    {
        $journey->reject(
            new Cause(
                Stage::Matching,
                'no_match',
                null,
                $this->load->reads() ? $journey->legacyKey : LegacyKey::show($journey->legacyKey),
                $this->load->reads()
                    ? "The key space {$this->load->space} has no such key, and the write policy is {$this->load->policy->label()}"
                    : "No record in the target matches, and the write policy is {$this->load->policy->label()}",
                $this->load->reads() ? $this->load->entity->name : null,
                $this->load->reads() ? $this->load->space : null,
            ),
        );
    }

    /** @param  list<Journey>  $journeys */
    private function findRecords(array $journeys): void
    {
        $keys = [];
        foreach ($journeys as $journey) {
            foreach ($journey->isOpen() ? $this->load->matches : [] as $rule) {
                $key = $rule->key($journey->values);
                if ($key !== null) {
                    $journey->matchKeys[] = $key;
                    $keys[$key] = true;
                }
            }
        }
        $hits = $keys === []
            ? []
            : $this->index->find($this->load->entity->name, array_map(strval(...), array_keys($keys)));
        foreach ($journeys as $journey) {
            if (! $journey->isOpen()) {
                continue;
            }
            $hit = self::first($journey, $hits);
            if ($hit === null) {
                if (! $this->load->policy->creates()) {
                    $this->rejectUnmatched($journey);
                }

                continue;
            }
            $journey->targetKey = $hit->targetKey;
            if ($hit->taken) {
                $journey->settle(Outcome::Merged, $hit->targetKey);
            }
        }
    }

    /**
     * The first rule that hits decides.
     *
     * @param  array<array-key, MatchHit>  $hits
     */
    private static function first(Journey $journey, array $hits): ?MatchHit
    {
        foreach ($journey->matchKeys as $key) {
            if (isset($hits[$key])) {
                return $hits[$key];
            }
        }

        return null;
    }
}
