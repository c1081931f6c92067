<?php

namespace App\Models;

use Baggage\Core\Reconciling\ControlTotal as Definition;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A control total of a migration.
 *
 * @property int $id
 * @property int $migration_id
 * @property int $entity_id
 * @property ?int $load_id the one load it is about
 * @property string $name
 * @property int $position
 * @property array<string, mixed> $definition as ControlTotal::toPlan() says it, but for its name, entity and load
 * @property int $version
 * @property ?int $user_id
 * @property Entity $entity
 * @property ?Load $ofLoad
 */
final class ControlTotal extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return ['definition' => 'array'];
    }

    /** @return BelongsTo<Entity, $this> */
    public function entity(): BelongsTo
    {
        return $this->belongsTo(Entity::class);
    }

    /** @return BelongsTo<Load, $this> */
    public function ofLoad(): BelongsTo
    {
        return $this->belongsTo(Load::class, 'load_id');
    }

    public function described(): Definition
    {
        return Definition::fromPlan([
            'name' => $this->name, 'entity' => $this->entity->name, 'load' => $this->ofLoad?->name,
        ] + $this->definition);
    }
}
