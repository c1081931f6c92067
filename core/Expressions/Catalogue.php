<?php

namespace Baggage\Core\Expressions;

/** All functions a rule may use, by name, read from the classes under Functions/. */
final class Catalogue
{
    private const THEMES = [
        'Text' => Functions\Text::class,
        'People and organisations' => Functions\Names::class,
        'Addresses' => Functions\Addresses::class,
        'Numbers' => Functions\Numbers::class,
        'Units' => Functions\Units::class,
        'Dates' => Functions\Dates::class,
        'Codes, keys and parents' => Functions\Keys::class,
        'Identifiers' => Functions\Identifiers::class,
        'Likeness' => Functions\Likeness::class,
        'Conditions' => Functions\Conditions::class,
    ];

    /** @var array<string, CatalogueEntry>|null */
    private static ?array $entries = null;

    /** @return array<string, CatalogueEntry> */
    public static function entries(): array
    {
        if (self::$entries === null) {
            self::$entries = [];
            foreach (self::THEMES as $theme => $class) {
                foreach ((new \ReflectionClass($class))->getMethods(\ReflectionMethod::IS_PUBLIC) as $method) {
                    foreach ($method->getAttributes(Described::class) as $attribute) {
                        $described = $attribute->newInstance();
                        $least = $method->getNumberOfRequiredParameters() - ($described->needsContext ? 1 : 0);
                        $most = $method->isVariadic()
                            ? PHP_INT_MAX
                            : $method->getNumberOfParameters() - ($described->needsContext ? 1 : 0);
                        self::$entries[$described->name] = new CatalogueEntry(
                            $theme,
                            $described,
                            $class,
                            $method->getName(),
                            $least,
                            $most,
                        );
                    }
                }
            }
        }

        return self::$entries;
    }
}
