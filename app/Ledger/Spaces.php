<?php

namespace App\Ledger;

use App\Models\KeySpace;
use App\Models\Migration;

/** The key spaces of a migration by what they are of. */
final readonly class Spaces
{
    /** @param  array<string, int>  $ids  entity and source → number */
    private function __construct(private array $ids)
    {
    }

    public static function of(Migration $migration): self
    {
        $entities = $migration->entities()->pluck('name', 'id');
        $sources = $migration->sources()->pluck('code', 'id');
        $ids = [];
        foreach (KeySpace::query()->where('migration_id', $migration->id)->get() as $space) {
            $ids["{$entities[$space->entity_id]}\x1F{$sources[$space->source_id]}"] = $space->id;
        }

        return new self($ids);
    }

    /** The space a reference leads to; one that no load fills was refused as an orphan before. */
    public function id(string $entity, string $source): int
    {
        return $this->find($entity, $source) ?? throw new \LogicException("No load fills $entity of $source.");
    }

    public function find(string $entity, string $source): ?int
    {
        return $this->ids["$entity\x1F$source"] ?? null;
    }

    /**
     * @param  list<string>|null  $entities  null: any
     * @param  list<string>|null  $sources  null: any
     * @return list<int>
     */
    public function among(?array $entities, ?array $sources): array
    {
        $found = [];
        foreach ($this->ids as $of => $id) {
            [$entity, $source] = explode("\x1F", $of);
            if (($entities === null || in_array($entity, $entities, true)) && ($sources === null || in_array($source, $sources, true))) {
                $found[] = $id;
            }
        }

        return $found;
    }
}
