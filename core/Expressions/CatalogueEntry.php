<?php

namespace Baggage\Core\Expressions;

use Baggage\Core\Crosswalks\ParentKey;

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

    /** What its arguments may be and what it gives, in words: "text, number; gives text". */
    public function types(): string
    {
        $method = new \ReflectionMethod($this->class, $this->method);
        $parameters = array_values(
            array_filter(
                $method->getParameters(),
                fn (\ReflectionParameter $p) => (string) $p->getType() !== Context::class,
            ),
        );

        return implode(
            ', ',
            array_map(
                fn (\ReflectionParameter $p) => self::type($p->getType()).($p->isVariadic() ? ' …' : ''),
                $parameters,
            ),
        )
            .'; gives '.self::type($method->getReturnType());
    }

    private static function type(?\ReflectionType $type): string
    {
        $names = array_diff(explode('|', ltrim((string) $type, '?')), ['null']);

        return match (true) {
            in_array('mixed', $names, true) => 'any',
            in_array(ParentKey::class, $names, true) => 'a parent',
            in_array('array', $names, true) => 'text or list',
            $names === ['bool'] => 'yes or no',
            $names === ['int'] => 'number',
            // A number in a cell is text, so what takes a number takes it written out as well.
            in_array('int', $names, true) || in_array('float', $names, true) => 'number or text',
            default => 'text',
        };
    }
}
