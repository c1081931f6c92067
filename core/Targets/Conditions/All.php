<?php

namespace Baggage\Core\Targets\Conditions;

/** Every one of several tests. */
final readonly class All implements Test
{
    /** @param  non-empty-list<Test>  $tests */
    public function __construct(public array $tests)
    {
    }

    public function holds(Record $record): ?bool
    {
        $all = true;
        foreach ($this->tests as $test) {
            $is = $test->holds($record);
            if ($is === false) {
                return false;
            }
            $all = $is === null ? null : $all;
        }

        return $all;
    }

    public function words(bool $not = false): string
    {
        return implode($not ? ', or ' : ', and ', array_map(fn (Test $t) => $t->words($not), $this->tests));
    }

    public function fields(): array
    {
        return array_values(array_unique(array_merge(...array_map(fn (Test $t) => $t->fields(), $this->tests))));
    }
}
