<?php

namespace Baggage\Core\Reading\Nested;

/** The first records of a source, for a preview: what comes after them is not read. */
final class FirstRecords implements Records
{
    public function __construct(private readonly Records $records, private readonly int $count)
    {
    }

    public function each(): \Generator
    {
        $n = 0;
        foreach ($this->records->each() as $line => $record) {
            yield $line => $record;
            if (++$n === $this->count) {
                return;
            }
        }
    }
}
