<?php

namespace Baggage\Core\Reading\Query;

/** One condition on the rows of a table, put together without SQL. */
final readonly class Filter
{
    public const TESTS = [
        'is',
        'is not',
        'less than',
        'at most',
        'more than',
        'at least',
        'begins with',
        'contains',
        'one of',
        'is blank',
        'is not blank',
    ];

    /** @param  string  $value  a value, values separated by commas for "one of", or :name for a parameter */
    public function __construct(public string $column, public string $test, public string $value = '')
    {
        if ($column === '') {
            throw new \InvalidArgumentException('A filter names a column.');
        }
        if (! in_array($test, self::TESTS, true)) {
            throw new \InvalidArgumentException(
                "There is no test \"$test\" for filters; there are ".implode(', ', self::TESTS).'.',
            );
        }
        if ($value === '' && ! in_array($test, ['is blank', 'is not blank'], true)) {
            throw new \InvalidArgumentException("The filter on \"$column\" needs a value.");
        }
    }

    /** @param  array<string, mixed>  $a */
    public static function fromArray(array $a): self
    {
        return new self(
            trim((string) ($a['column'] ?? '')),
            trim((string) ($a['test'] ?? 'is')),
            (string) ($a['value'] ?? ''),
        );
    }

    /** @return array<string, string> */
    public function toArray(): array
    {
        return ['column' => $this->column, 'test' => $this->test]
            + ($this->value === '' ? [] : ['value' => $this->value]);
    }
}
