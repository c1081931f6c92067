<?php

namespace App\Overview;

use App\Catalogue\CodeColumn;

/** A code crosswalk as pages list it. */
final readonly class ListedCrosswalk
{
    /**
     * @param  int|null  $id  null where a rule names it and there is none
     * @param  int  $values  old ones that occur or are mapped
     * @param  int  $unmapped  of them, where others reject their row
     * @param  int  $refused  new values the target does not take
     * @param  list<CodeColumn>  $uses
     */
    public function __construct(
        public ?int $id,
        public string $name,
        public int $values,
        public int $unmapped,
        public int $refused,
        public array $uses,
    ) {
    }

    /** @param  array{int|null, string, int, int, int, list<list<int|string|bool|null>>}  $line  of toArray() */
    public static function fromArray(array $line): self
    {
        return new self($line[0], $line[1], $line[2], $line[3], $line[4], array_map(fn (array $u) => new CodeColumn(...$u), $line[5]));
    }

    /** @return list<mixed> */
    public function toArray(): array
    {
        $uses = array_map(fn (CodeColumn $u) => $u->toArray(), $this->uses);

        return [$this->id, $this->name, $this->values, $this->unmapped, $this->refused, $uses];
    }

    /** What an address says to have it shown. */
    public function asked(): string
    {
        return $this->isMissing() ? http_build_query(['missing' => $this->name]) : "code=$this->id";
    }

    public function isMissing(): bool
    {
        return $this->id === null;
    }

    public function isDone(): bool
    {
        return ! $this->isMissing() && $this->unmapped === 0 && $this->refused === 0;
    }

    public function isUsedBy(int $entity): bool
    {
        return in_array($entity, array_column($this->uses, 'entity'), true);
    }
}
