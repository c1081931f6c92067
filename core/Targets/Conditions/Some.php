<?php

namespace Baggage\Core\Targets\Conditions;

/** At least one of several tests. */
final readonly class Some implements Test
{
    /** @param  non-empty-list<Test>  $tests */
    public function __construct(private array $tests)
    {
    }

    public function holds(Record $record): ?bool
    {
        $some = false;
        foreach ($this->tests as $test) {
            $is = $test->holds($record);
            if ($is === true) {
                return true;
            }
            $some = $is === null ? null : $some;
        }

        return $some;
    }

    public function words(bool $not = false): string
    {
        return implode($not ? ', and ' : ', or ', array_map(fn (Test $t) => $t->words($not), $this->tests));
    }

    public function fields(): array
    {
        return array_values(array_unique(array_merge(...array_map(fn (Test $t) => $t->fields(), $this->tests))));
    }
}
