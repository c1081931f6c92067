<?php

namespace Baggage\Core\Loading;

/** Port: references of a lane that are set once both records are in the target. */
interface OpenReferences
{
    /**
     * Those that wait and whose parent has a target key by now, in row order.
     *
     * @return list<array{int, string, string}> row, target key of its record, target key of the parent
     */
    public function ready(int $load, string $field, int $after, int $most): array;

    /** @param  list<int>  $rows whose reference is set */
    public function made(int $load, string $field, array $rows): void;
}
