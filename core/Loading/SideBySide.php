<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Mapping\LoadDefinition;

/**
 * Which loads of a plan wait for which, and which go beside each other.
 *
 * A load waits for those of its parents. Loads that fill one entity go side by side, but for one that looks for its records by the keys
 * others gave: it comes after those before it, and those after it come later.
 */
final readonly class SideBySide
{
    public function __construct(private PlanVersion $plan)
    {
    }

    /** @return list<LoadDefinition> with itself, in their order */
    public function beside(LoadDefinition $load): array
    {
        $beside = $found = [];
        foreach ($this->plan->loads as $other) {
            if ($other->entity->name !== $load->entity->name) {
                continue;
            }
            if ($other->reads() || ($beside !== [] && $beside[0]->reads())) {
                $beside = [];
            }
            $beside[] = $other;
            if (in_array($load, $beside, true)) {
                $found = $beside;
            }
        }

        return $found;
    }

    /** @return list<LoadDefinition> all that have to be over before it */
    public function before(LoadDefinition $load): array
    {
        $parents = $this->plan->order()->parentsOf($load->entity->name);
        $beside = $this->beside($load);
        $before = [];
        $isBefore = true;
        foreach ($this->plan->loads as $other) {
            $isBefore = $isBefore && $other !== $load;
            $isOwn = $isBefore && $other->entity->name === $load->entity->name && ! in_array($other, $beside, true);
            if ($isOwn || in_array($other->entity->name, $parents, true)) {
                $before[] = $other;
            }
        }

        return $before;
    }

    /**
     * Whether all rows of loads that go beside each other go one after another: where any may meet what stands already, and where a
     * record that is changed may leave a value free that another row waits for.
     *
     * @param  non-empty-list<LoadDefinition>  $beside
     * @param  bool  $isFirst  whether none of their rows was worked on before
     * @param  bool  $stand  whether rows of other loads of the entity may stand for records
     * @param  bool  $meets  whether the target holds records of others, as far as is known
     */
    public function inTurn(array $beside, bool $isFirst, bool $stand, bool $meets): bool
    {
        if (! $isFirst || ($stand && ! $beside[0]->reads())) {
            return true;
        }
        $unique = array_flip(array_merge([], ...$beside[0]->entity->uniques));
        foreach ($beside as $load) {
            $changes = $load->reads() || ($meets && $load->policy->updates());
            if ($changes && array_intersect_key($load->rules, $unique) !== []) {
                return true;
            }
        }

        return false;
    }
}
