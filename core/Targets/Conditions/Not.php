<?php

namespace Baggage\Core\Targets\Conditions;

/** The opposite of a test. */
final readonly class Not implements Test
{
    public function __construct(private Test $test)
    {
    }

    public function holds(Record $record): ?bool
    {
        $is = $this->test->holds($record);

        return $is === null ? null : ! $is;
    }

    public function words(bool $not = false): string
    {
        return $this->test->words(! $not);
    }

    public function fields(): array
    {
        return $this->test->fields();
    }
}
