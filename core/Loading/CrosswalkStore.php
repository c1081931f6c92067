<?php

namespace Baggage\Core\Loading;

/** Port: the key crosswalk of one round. */
interface CrosswalkStore
{
    /**
     * @param  list<string>  $keys  legacy keys in stored form
     * @return array<array-key, KeyState> by legacy key; a key no row carries is left out. Where several rows carry one key, the
     *                                    one with a target key counts.
     */
    public function states(string $entity, string $space, array $keys): array;

    /**
     * Rows that stand on records; those merged into them are not meant.
     *
     * @param  list<string>  $keys  target keys
     * @return array<array-key, Holder> by target key
     */
    public function holders(string $entity, array $keys): array;
}
