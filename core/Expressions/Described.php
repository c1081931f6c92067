<?php

namespace Baggage\Core\Expressions;

/** How one function of the rule catalogue is used; the example is executed by a test. */
#[\Attribute(\Attribute::TARGET_METHOD)]
final readonly class Described
{
    /**
     * @param  string  $name  as written in rules
     * @param  string  $arguments  as shown in the catalogue
     * @param  string|null  $gives  what the example gives, null for none
     */
    public function __construct(
        public string $name,
        public string $arguments,
        public string $meaning,
        public string $example,
        public ?string $gives,
        public bool $needsContext = false,
    ) {
    }
}
