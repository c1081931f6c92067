<?php

namespace Baggage\Core\Ordering;

/**
 * Sorts entities so that parents precede children.
 *
 * Required references are kept always. Nullable ones are kept unless they would close a circle; those are deferred and set in
 * a second pass. Strongly connected components (Tarjan, 1972) tell which references lie on circles at all.
 */
final readonly class LoadOrder
{
    /**
     * @param  array<string, int>  $waves  entity → wave, from 1
     * @param  list<Reference>  $kept
     * @param  list<Reference>  $deferred
     */
    private function __construct(public array $waves, public array $kept, public array $deferred)
    {
    }

    /**
     * @param  list<string>  $entities
     * @param  list<Reference>  $references  those to entities outside the list are ignored
     *
     * @throws OrderError
     */
    public static function of(array $entities, array $references): self
    {
        $known = array_fill_keys($entities, true);
        $references = array_values(
            array_filter($references, fn (Reference $r) => isset($known[$r->child], $known[$r->parent])),
        );
        $component = self::components($entities, $references);
        $kept = $doubtful = [];
        foreach ($references as $reference) {
            $onCircle = $component[$reference->child] === $component[$reference->parent];
            if ($onCircle && ! $reference->required) {
                $doubtful[] = $reference;
            } else {
                $kept[] = $reference;
            }
        }
        $circle = self::circle($entities, $kept);
        if ($circle !== null) {
            throw OrderError::circle($circle);
        }
        $deferred = [];
        foreach ($doubtful as $reference) {
            if ($reference->child === $reference->parent || self::circle($entities, [...$kept, $reference]) !== null) {
                $deferred[] = $reference;
            } else {
                $kept[] = $reference;
            }
        }

        return new self(self::waves($entities, $kept), $kept, $deferred);
    }

    /** @return list<string> fields of the entity that wait for the second pass */
    public function deferredFields(string $entity): array
    {
        return array_values(
            array_map(
                fn (Reference $r) => $r->field,
                array_filter($this->deferred, fn (Reference $r) => $r->child === $entity),
            ),
        );
    }

    /**
     * Where a load stands among all: parents before children, and of one wave those that only change records after those that make
     * them; otherwise in the order they were stated.
     *
     * @return array{int, bool, int} to be compared
     */
    public function place(string $entity, bool $reads, int $position): array
    {
        return [$this->waves[$entity], $reads, $position];
    }

    /** @return list<string> entities that must be there before this one */
    public function parentsOf(string $entity): array
    {
        $parents = array_map(
            fn (Reference $r) => $r->parent,
            array_filter($this->kept, fn (Reference $r) => $r->child === $entity),
        );

        return array_values(array_unique(array_diff($parents, [$entity])));
    }

    /**
     * @param  list<string>  $entities
     * @param  list<Reference>  $references
     * @return array<string, int> entity → number of its strongly connected component
     */
    private static function components(array $entities, array $references): array
    {
        $next = array_fill_keys($entities, []);
        foreach ($references as $r) {
            $next[$r->child][] = $r->parent;
        }

        return (new Components($next))->numbers();
    }

    /**
     * @param  list<string>  $entities
     * @param  list<Reference>  $references
     * @return list<Reference>|null references that form a circle
     */
    private static function circle(array $entities, array $references): ?array
    {
        $component = self::components($entities, $references);
        $size = array_count_values($component);
        foreach ($references as $r) {
            if (
                $r->child === $r->parent
                || ($component[$r->child] === $component[$r->parent] && $size[$component[$r->child]] > 1)
            ) {
                return array_values(
                    array_filter(
                        $references,
                        fn (Reference $o) => $component[$o->child] === $component[$r->child]
                            && $component[$o->parent] === $component[$r->child],
                    ),
                );
            }
        }

        return null;
    }

    /**
     * @param  list<string>  $entities
     * @param  list<Reference>  $kept  without circles
     * @return array<string, int>
     */
    private static function waves(array $entities, array $kept): array
    {
        $waves = array_fill_keys($entities, 1);
        // At most as many rounds as there are entities, since the longest path visits each once.
        for ($i = 0, $n = count($entities); $i < $n; $i++) {
            $changed = false;
            foreach ($kept as $r) {
                if ($waves[$r->child] <= $waves[$r->parent]) {
                    $waves[$r->child] = $waves[$r->parent] + 1;
                    $changed = true;
                }
            }
            if (! $changed) {
                break;
            }
        }

        return $waves;
    }
}
