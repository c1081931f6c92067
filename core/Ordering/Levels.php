<?php

namespace Baggage\Core\Ordering;

/** How far each node of a graph lies from those that depend on nothing; circles are cut where they close. */
final class Levels
{
    /**
     * @param  list<int>  $nodes
     * @param  array<int, list<int>>  $needs  node → nodes it depends on
     * @return array<int, int> node → 0 for those that need nothing, otherwise one more than the farthest it needs
     */
    public static function of(array $nodes, array $needs): array
    {
        $levels = [];
        $busy = [];
        $visit = function (int $node) use (&$visit, &$levels, &$busy, $needs): int {
            if (isset($levels[$node])) {
                return $levels[$node];
            }
            $busy[$node] = true;
            $level = 0;
            foreach ($needs[$node] ?? [] as $parent) {
                if (! isset($busy[$parent])) {
                    $level = max($level, $visit($parent) + 1);
                }
            }
            unset($busy[$node]);

            return $levels[$node] = $level;
        };
        foreach ($nodes as $node) {
            $visit($node);
        }

        return $levels;
    }
}
