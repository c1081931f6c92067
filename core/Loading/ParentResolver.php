<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\Stage;
use Baggage\Core\Targets\Entity;

/**
 * Finds the parents of a batch by their legacy keys.
 *
 * A key no row anywhere carries is an orphan and rejects the child; a parent whose row exists without a target key holds it.
 * A deferred reference never holds: it becomes a link, set when its parent is there.
 */
final class ParentResolver
{
    /** @var array<string, array<array-key, int|string>> entity and key space → legacy key → target key, numbers as such: they take less */
    private array $cache = [];

    /** @var array<string, array<string, array{string, KeyNormalisation}>> field → key space → as group() */
    private array $groups = [];

    /**
     * @param  array<string, array<string, KeyNormalisation>>  $normalisations  entity → key space → as its loads state it
     * @param  list<string>  $deferred  fields whose parents come later
     * @param  int  $remembered  parents kept in memory between batches, per entity and key space
     */
    public function __construct(
        private readonly Entity $entity,
        private readonly CrosswalkStore $crosswalk,
        private readonly array $normalisations,
        private readonly array $deferred,
        private readonly int $remembered = 120_000,
    ) {
    }

    /** @return array{string, KeyNormalisation} entity and key space a field looks in, and how keys are written there */
    private function group(string $field, string $space): array
    {
        $entity = (string) $this->entity->fields[$field]->refers;

        return ["$entity\x1F$space", $this->normalisations[$entity][$space] ?? KeyNormalisation::Trim];
    }

    /** @param  list<Journey>  $journeys */
    public function resolve(array $journeys): void
    {
        // Before the batch asks anything: a key forgotten between asking and settling would look like an orphan.
        $this->cache = array_filter($this->cache, fn (array $keys) => count($keys) <= $this->remembered);
        $wanted = [];
        /** @var array<int, array<string, list<string>>> $keys */
        $keys = [];
        foreach ($journeys as $i => $journey) {
            if (! $journey->isOpen()) {
                continue;
            }
            foreach ($journey->parents as $field => $parent) {
                foreach ($parent->chain() as $one) {
                    [$group, $normalisation] = $this->groups[$field][$one->space] ??= $this->group($field, $one->space);
                    $keys[$i][$field][] = $key = LegacyKey::of($one->parts, $normalisation);
                    if ($one->record === null && ! isset($this->cache[$group][$key]) && ! self::isTooLong($key)) {
                        $wanted[$group][$key] = true;
                    }
                }
            }
        }
        $states = [];
        foreach ($wanted as $group => $set) {
            [$entity, $space] = explode("\x1F", $group);
            $found = $this->crosswalk->states($entity, $space, array_map(strval(...), array_keys($set)));
            $states[$group] = $found;
            foreach ($found as $key => $state) {
                $record = $state->record();
                if ($record !== null) {
                    $number = (int) $record;
                    $this->cache[$group][$key] = (string) $number === $record ? $number : $record;
                }
            }
        }
        foreach ($keys as $i => $fields) {
            $this->settle($journeys[$i], $fields, $states);
        }
    }

    private static function isTooLong(string $key): bool
    {
        return strlen($key) > LegacyKey::LONGEST && mb_strlen($key) > LegacyKey::LONGEST;
    }

    /**
     * A parent that is nowhere, or was left behind on purpose, rejects the row, whatever holds it besides: held means fine by itself.
     *
     * @param  array<string, list<string>>  $fields  field → legacy keys of its parent, one after another
     * @param  array<string, array<array-key, KeyState>>  $states
     */
    private function settle(Journey $journey, array $fields, array $states): void
    {
        $missing = null;
        foreach ($fields as $field => $chain) {
            [$parent, $key] = $this->counting($field, $journey->parents[$field], $chain, $states);
            $space = $parent->space;
            [$group] = $this->groups[$field][$space];
            $isDeferred = $this->deferred !== [] && in_array($field, $this->deferred, true);
            $isThere = isset($this->cache[$group][$key]);
            if ($parent->record !== null || ($isThere && ! $isDeferred)) {
                $journey->values[$field] = $parent->record ?? (string) $this->cache[$group][$key];

                continue;
            }
            $entity = (string) $this->entity->fields[$field]->refers;
            $state = $states[$group][$key] ?? null;
            if ($isDeferred && ($isThere || $state !== null)) {
                $journey->links[$field] = ['entity' => $entity, 'space' => $space, 'key' => $key, 'isSet' => $isThere];
            }
            if ($isThere) {
                $journey->values[$field] = (string) $this->cache[$group][$key];
            } elseif ($state === null) {
                $journey->reject(self::nowhere($field, $key, $entity, $space));

                return;
            } elseif ($state->isLeft() && ! $isDeferred) {
                self::leave($journey, $field, $key, $entity, $space, $state);

                return;
            } elseif (! $isDeferred) {
                $missing ??= [$field, $key, $entity, $space, $state];
            }
        }
        if ($missing !== null) {
            self::hold($journey, ...$missing);
        }
    }

    /**
     * The first of some parents that is there, or may come to be; else the last.
     *
     * @param  list<string>  $keys
     * @param  array<string, array<array-key, KeyState>>  $states
     * @return array{ParentKey, string} and its legacy key
     */
    private function counting(string $field, ParentKey $parent, array $keys, array $states): array
    {
        $last = count($keys) - 1;
        foreach ($last === 0 ? [] : $parent->chain() as $n => $one) {
            [$group] = $this->groups[$field][$one->space];
            $state = $states[$group][$keys[$n]] ?? null;
            $isThere = isset($this->cache[$group][$keys[$n]]) || ($state !== null && ! $state->isLeft());
            if ($one->record !== null || $isThere || $n === $last) {
                return [$one, $keys[$n]];
            }
        }

        return [$parent, $keys[0]];
    }

    private static function nowhere(string $field, string $key, string $entity, string $space): Cause
    {
        if (self::isTooLong($key)) {
            $why = 'A key of more than '.LegacyKey::LONGEST.' characters: rows with such keys are refused, so nothing has it';

            return new Cause(Stage::Parents, 'parent_key_too_long', $field, mb_substr($key, 0, LegacyKey::LONGEST), $why);
        }
        $why = ucfirst(str_replace('_', ' ', $entity))." not found anywhere in $space";

        return new Cause(Stage::Parents, 'orphan', $field, $key, $why, $entity, $space);
    }

    /** @param  string|null  $field  null where the row's own key leads to the record */
    public static function hold(Journey $journey, ?string $field, string $key, string $entity, string $space, KeyState $parent): void
    {
        $is = $parent->outcome->value;
        // Parents come first: one that is pending was left out of the pass, or its load did not run.
        $why = 'Waits for '.str_replace('_', ' ', $entity)
            .($parent->outcome === Outcome::Pending ? ', which was not asked for' : ", which is $is");
        $journey->hold(
            new Cause(Stage::Parents, "parent_$is", $field, $key, $why, $entity, $space),
            $parent->rootCause,
        );
    }

    /** A record that was left behind on purpose will never be there. */
    public static function leave(Journey $journey, ?string $field, string $key, string $entity, string $space, KeyState $parent): void
    {
        $is = $parent->isLeaving ? Outcome::Withdrawn : $parent->outcome;
        $why = ucfirst(str_replace('_', ' ', $entity))." was left behind: $is->value"
            .($parent->why === null ? '' : ", $parent->why");
        $journey->reject(new Cause(Stage::Parents, 'parent_left', $field, $key, $why, $entity, $space));
    }
}
