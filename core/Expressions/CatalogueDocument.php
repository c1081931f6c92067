<?php

namespace Baggage\Core\Expressions;

/** The catalogue of functions as a page and as data, for those who write plans without the screens. */
final class CatalogueDocument
{
    private const INTRODUCTION = <<<'MD'
        # Functions of rules

        What rules, scopes and checks may call (see [the plan file](plan-file.md), Expressions). Written by `php artisan baggage:functions`;
        `--json` gives the same as data. Each example is run by a test. A `…` stands for any number of further arguments; a function that
        gets a blank gives none unless it says otherwise; one that cannot do what it says rejects the row with the reason.

        MD;

    public static function markdown(): string
    {
        $page = self::INTRODUCTION;
        $theme = null;
        foreach (Catalogue::entries() as $entry) {
            if ($entry->theme !== $theme) {
                $theme = $entry->theme;
                $page .= "\n## $theme\n\n| function | takes and gives | meaning | example |\n|---|---|---|---|\n";
            }
            $of = $entry->described;
            $cells = ["`$of->name($of->arguments)`", self::takes($entry), $of->meaning, "`$of->example` gives ".self::gives($of->gives)];
            $page .= '| '.implode(' | ', array_map(self::cell(...), $cells))." |\n";
        }

        return $page;
    }

    /** @return list<array<string, mixed>> theme, name, arguments, least and most of them (null for any), types, meaning, example, gives */
    public static function data(): array
    {
        return array_map(fn (CatalogueEntry $entry) => [
            'theme' => $entry->theme,
            'name' => $entry->described->name,
            'arguments' => $entry->described->arguments,
            'least' => $entry->leastArguments,
            'most' => $entry->mostArguments === PHP_INT_MAX ? null : $entry->mostArguments,
            'types' => $entry->types(),
            'meaning' => $entry->described->meaning,
            'example' => $entry->described->example,
            'gives' => $entry->described->gives,
        ], array_values(Catalogue::entries()));
    }

    /** How many arguments where some may be left out, and their types. */
    private static function takes(CatalogueEntry $entry): string
    {
        $some = $entry->mostArguments !== PHP_INT_MAX && $entry->leastArguments < $entry->mostArguments
            ? " ($entry->leastArguments to $entry->mostArguments)"
            : '';
        [$takes, $gives] = explode('; ', $entry->types());

        return "$takes$some; $gives";
    }

    private static function gives(?string $value): string
    {
        return $value === null ? 'none' : '`'.str_replace("\n", '\n', $value).'`';
    }

    private static function cell(string $text): string
    {
        return str_replace(['|', "\n"], ['\|', ' '], $text);
    }
}
