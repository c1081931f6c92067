<?php

namespace Baggage\Core\Expressions;

/** One function of the catalogue and the static method behind it. */
final readonly class CatalogueEntry
{
    public function __construct(
        public string $theme,
        public Described $described,
        public string $class,
        public string $method,
        public int $leastArguments,
        public int $mostArguments,
    ) {
    }
}
