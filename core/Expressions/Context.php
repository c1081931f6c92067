<?php

namespace Baggage\Core\Expressions;

use Baggage\Core\Crosswalks\CodeCrosswalk;
use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Reading\Blank;

/** What a rule may look at besides its row. */
final class Context
{
    /**
     * @param  array<string, CodeCrosswalk>  $codes  by name
     * @param  string  $source  code of the source the row comes from, and so of the key space parents are looked for in unless stated
     * @param  array<string, string|null>  $parameters  values a round was begun with, by name
     */
    public function __construct(
        private readonly array $codes = [],
        private readonly string $source = '',
        private readonly array $parameters = [],
    ) {
    }

    public function crosswalk(string $name): CodeCrosswalk
    {
        return $this->codes[$name]
            ?? throw new RuleFailure('no_code_crosswalk', "There is no code crosswalk named \"$name\"", $name);
    }

    public function parameter(string $name): ?string
    {
        return array_key_exists($name, $this->parameters)
            ? $this->parameters[$name]
            : throw new RuleFailure('no_parameter', "The migration has no parameter named \"$name\"", $name);
    }

    /** @param  list<string|null>  $parts */
    public function parentKey(array $parts, ?string $space): ?ParentKey
    {
        foreach ($parts as $part) {
            if (! Blank::is($part)) {
                return new ParentKey($space ?? $this->source, $parts);
            }
        }

        return null;
    }
}
