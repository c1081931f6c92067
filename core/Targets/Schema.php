<?php

namespace Baggage\Core\Targets;

/** The entities of one target. */
final readonly class Schema
{
    /** @var array<string, Entity> */
    public array $entities;

    /**
     * @param  list<Entity>  $entities
     * @param  array<string, string>  $others  tables that are no entities → why not
     */
    public function __construct(array $entities, public array $others = [])
    {
        $this->entities = array_combine(array_map(fn (Entity $e) => $e->name, $entities), $entities);
    }

    /** @param  list<array<string, mixed>>  $rows */
    public static function fromArray(array $rows): self
    {
        return new self(array_map(Entity::fromArray(...), $rows));
    }

    /** @return list<array<string, mixed>> */
    public function toArray(): array
    {
        return array_map(fn (Entity $e) => $e->toArray(), array_values($this->entities));
    }

    public function entity(string $name): Entity
    {
        return $this->entities[$name] ?? throw new \InvalidArgumentException(
            "The target has no entity \"$name\". It has ".implode(', ', array_keys($this->entities)).'.',
        );
    }
}
