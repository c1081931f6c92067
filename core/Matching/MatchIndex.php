<?php

namespace Baggage\Core\Matching;

/** Port: records of an entity by match key, those the target held before and those this round wrote. */
interface MatchIndex
{
    /**
     * @param  list<string>  $keys
     * @return array<array-key, string> match key → target key
     */
    public function find(string $entity, array $keys): array;
}
