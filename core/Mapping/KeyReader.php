<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Reading\Columns;

/** Says the legacy key of feed rows. */
final readonly class KeyReader
{
    /** @param  list<int>  $positions  of the key's columns */
    private function __construct(public array $positions, private KeyNormalisation $normalisation)
    {
    }

    /** @throws DefinitionError where the load has no key, or one of its columns is not there */
    public static function of(LoadDefinition $load, Columns $columns): self
    {
        if ($load->keyColumns === []) {
            throw DefinitionError::noKey($load->name);
        }
        $positions = array_map(
            fn (string $name) => $columns->find($name)->position ?? throw DefinitionError::noKeyColumn($load->name, $name),
            $load->keyColumns,
        );

        return new self($positions, $load->normalisation);
    }

    /** @param  list<string|null>  $cells */
    public function legacyKey(array $cells): string
    {
        return LegacyKey::of(array_map(fn (int $i) => $cells[$i] ?? null, $this->positions), $this->normalisation);
    }
}
