<?php

namespace Baggage\Core\Targets\Conditions;

/** Part of a condition that holds, does not, or cannot be told: null, as unknown in SQL. */
interface Test
{
    public function holds(Record $record): ?bool;

    /** As a person says it; $not for its opposite. */
    public function words(bool $not = false): string;

    /** @return list<string> names of the fields it looks at, each once */
    public function fields(): array;
}
