<?php

namespace Baggage\Core\Reconciling;

use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Loading\CrosswalkStore;

/** Records that legacy rows refer to, by target key where one stands, else by key space and legacy key. */
final class GroupKeys
{
    private const REMEMBERED = 30_000;

    /** @var array<string, array<array-key, int|string>> entity and space → key → target key, numbers as such; '' for none */
    private array $known = [];

    /** @param  array<string, array<string, KeyNormalisation>>  $normalisations  entity → key space → how its keys are written */
    public function __construct(private readonly CrosswalkStore $crosswalk, private readonly array $normalisations)
    {
    }

    /**
     * Asks for those of many rows at once.
     *
     * @param  list<array{string, ParentKey}>  $parents  entity and key of each
     */
    public function look(array $parents): void
    {
        $this->known = array_filter($this->known, fn (array $keys) => count($keys) <= self::REMEMBERED);
        $wanted = [];
        foreach ($parents as [$entity, $parent]) {
            foreach ($parent->chain() as $one) {
                $key = $this->key($entity, $one);
                if ($one->record === null && $key !== '' && ! isset($this->known["$entity\x1E$one->space"][$key])) {
                    $wanted["$entity\x1E$one->space"][$key] = true;
                }
            }
        }
        foreach ($wanted as $of => $keys) {
            [$entity, $space] = explode("\x1E", $of);
            $states = $this->crosswalk->states($entity, $space, array_map(strval(...), array_keys($keys)));
            foreach ($keys as $key => $true) {
                $target = isset($states[$key]) ? (string) $states[$key]->stood() : '';
                $number = (int) $target;
                $this->known[$of][$key] = (string) $number === $target ? $number : $target;
            }
        }
    }

    /** Target key of the first of the chain that has a record; null where none has. */
    public function target(string $entity, ParentKey $parent): ?string
    {
        foreach ($parent->chain() as $one) {
            $found = $one->record ?? $this->known["$entity\x1E$one->space"][$this->key($entity, $one)] ?? '';
            if ($found !== '') {
                return (string) $found;
            }
        }

        return null;
    }

    /** The name of the group: target key, or where there is none key space and legacy key. */
    public function name(string $entity, ParentKey $parent): string
    {
        return $this->target($entity, $parent) ?? self::unfound($parent->space, $this->key($entity, $parent));
    }

    /** @param  string  $key  in stored form */
    public static function unfound(string $space, string $key): string
    {
        return "$space ".LegacyKey::show($key);
    }

    private function key(string $entity, ParentKey $one): string
    {
        return LegacyKey::of($one->parts, $this->normalisations[$entity][$one->space] ?? KeyNormalisation::Trim);
    }
}
