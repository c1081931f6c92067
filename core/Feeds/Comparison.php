<?php

namespace Baggage\Core\Feeds;

use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Matching\Normaliser;

/** How values are written before a feed holds them against each other: as legacy keys are, or as matched fields are. */
final readonly class Comparison
{
    private function __construct(public string $name, private KeyNormalisation|Normaliser $as)
    {
    }

    public static function named(string $name): self
    {
        $as = KeyNormalisation::tryFrom($name)
            ?? (Normaliser::tryFrom($name)
                ?? throw new \InvalidArgumentException(
                    "Values cannot be compared \"$name\". Known are ".implode(', ', array_keys(self::labels())).'.',
                ));

        return new self($name, $as);
    }

    /** @return array<string, string> name → what it means */
    public static function labels(): array
    {
        $labels = [];
        foreach ([...KeyNormalisation::cases(), ...Normaliser::cases()] as $case) {
            $labels[$case->value] ??= $case->label();
        }

        return $labels;
    }

    /**
     * @param  list<string|null>  $values
     * @return string|null sixteen hexadecimal digits that are the same for the same values; null when one of them is blank
     */
    public function hash(array $values): ?string
    {
        $parts = [];
        foreach ($values as $value) {
            $part = $this->as instanceof KeyNormalisation ? $this->as->part($value) : $this->as->key($value);
            if ($part === null || trim($part) === '') {
                return null;
            }
            $parts[] = $part;
        }

        return hash('xxh3', implode("\x1F", $parts));
    }
}
