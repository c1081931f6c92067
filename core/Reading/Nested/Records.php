<?php

namespace Baggage\Core\Reading\Nested;

/** A source of nested records that can be gone through more than once. */
interface Records
{
    /**
     * @return \Generator<int, array<array-key, mixed>> line → the record; its leaves are strings or null
     */
    public function each(): \Generator;
}
