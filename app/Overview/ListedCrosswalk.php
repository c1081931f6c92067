<?php

namespace App\Overview;

use App\Catalogue\CodeColumn;

/** A code crosswalk as pages list it. */
final readonly class ListedCrosswalk
{
    /**
     * @param  int  $values  old ones that occur or are mapped
     * @param  int  $unmapped  of them, where others reject their row
     * @param  list<CodeColumn>  $uses
     */
    public function __construct(public int $id, public string $name, public int $values, public int $unmapped, public array $uses)
    {
    }

    /** @param  array{int, string, int, int, list<list<int|string|null>>}  $line  of toArray() */
    public static function fromArray(array $line): self
    {
        return new self($line[0], $line[1], $line[2], $line[3], array_map(fn (array $u) => new CodeColumn(...$u), $line[4]));
    }

    /** @return list<mixed> */
    public function toArray(): array
    {
        return [$this->id, $this->name, $this->values, $this->unmapped, array_map(fn (CodeColumn $u) => $u->toArray(), $this->uses)];
    }

    public function isUsedBy(int $entity): bool
    {
        return in_array($entity, array_column($this->uses, 'entity'), true);
    }
}
