<?php

namespace App\Ledger;

use App\Models\KeySpace;
use App\Models\Migration;
use Baggage\Core\Crosswalks\SpaceName;

/** The key spaces of a migration by what they are of. */
final readonly class Spaces
{
    /** @param  array<string, int>  $ids  entity and name → number */
    private function __construct(private array $ids)
    {
    }

    public static function of(Migration $migration): self
    {
        $entities = $migration->entities()->pluck('name', 'id');
        $ids = [];
        foreach (KeySpace::query()->where('migration_id', $migration->id)->get() as $space) {
            $ids["{$entities[$space->entity_id]}\x1F$space->name"] = $space->id;
        }

        return new self($ids);
    }

    /** The space a reference leads to; one that no load fills was refused as an orphan before. */
    public function id(string $entity, string $space): int
    {
        return $this->find($entity, $space) ?? throw new \LogicException("No load fills the key space $space of $entity.");
    }

    public function find(string $entity, string $space): ?int
    {
        return $this->ids["$entity\x1F$space"] ?? null;
    }

    /** @return list<int> also those of rows that only read another */
    public function all(): array
    {
        return array_values($this->ids);
    }

    /**
     * Those that loads write.
     *
     * @param  list<string>|null  $entities  null: any
     * @param  list<string>|null  $names  null: any
     * @return list<int>
     */
    public function among(?array $entities, ?array $names): array
    {
        $found = [];
        foreach ($this->ids as $of => $id) {
            [$entity, $name] = explode("\x1F", $of);
            $meant = ($entities === null || in_array($entity, $entities, true)) && ($names === null || in_array($name, $names, true));
            if ($meant && ! SpaceName::isOfRows($name)) {
                $found[] = $id;
            }
        }

        return $found;
    }
}
