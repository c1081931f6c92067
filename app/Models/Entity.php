<?php

namespace App\Models;

use Baggage\Core\Targets\Entity as Described;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * @property int $id
 * @property int $migration_id
 * @property string $name
 * @property int $position
 * @property array<string, mixed> $definition
 */
final class Entity extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'definition' => 'array',
        ];
    }

    /** @return BelongsTo<Migration, $this> */
    public function migration(): BelongsTo
    {
        return $this->belongsTo(Migration::class);
    }

    /** @return HasMany<Load, $this> */
    public function loads(): HasMany
    {
        return $this->hasMany(Load::class);
    }

    public function described(): Described
    {
        return Described::fromArray($this->definition);
    }

    /** @return HasMany<MatchRule, $this> */
    public function matchRules(): HasMany
    {
        return $this->hasMany(MatchRule::class);
    }
}
