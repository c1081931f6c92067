<?php

namespace App\Models;

use Baggage\Core\Targets\Schema;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * @property int $id
 * @property string $name
 * @property string $target_name
 * @property ?string $target_description
 * @property string $installation
 */
final class Migration extends Model
{
    protected $guarded = [];

    /** @return HasMany<Source, $this> */
    public function sources(): HasMany
    {
        return $this->hasMany(Source::class);
    }

    /** @return HasMany<Target, $this> */
    public function targets(): HasMany
    {
        return $this->hasMany(Target::class);
    }

    /** @return HasMany<Entity, $this> */
    public function entities(): HasMany
    {
        return $this->hasMany(Entity::class);
    }

    /** @return HasMany<Parameter, $this> */
    public function parameters(): HasMany
    {
        return $this->hasMany(Parameter::class);
    }

    /** @return HasMany<Load, $this> */
    public function loads(): HasMany
    {
        return $this->hasMany(Load::class);
    }

    /** @return HasMany<CodeCrosswalk, $this> */
    public function codeCrosswalks(): HasMany
    {
        return $this->hasMany(CodeCrosswalk::class);
    }

    /** @return HasMany<Round, $this> */
    public function rounds(): HasMany
    {
        return $this->hasMany(Round::class);
    }

    /** The round people look at: the latest one. */
    public function currentRound(): ?Round
    {
        return $this->rounds()->latest('id')->first();
    }

    public function schema(): Schema
    {
        return Schema::fromArray(
            $this->entities()->orderBy('position')->get()->map(fn (Entity $e) => $e->definition)->values()->all(),
        );
    }
}
