<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Illuminate\Database\Eloquent\Relations\HasOne;
use Illuminate\Database\Eloquent\Relations\HasOneThrough;

/**
 * @property int $id
 * @property int $migration_id
 * @property string $kind
 * @property string $name
 * @property int $number
 * @property ?array<string, string> $parameters
 * @property ?int $user_id
 * @property \Illuminate\Support\Carbon $created_at
 */
final class Round extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'parameters' => 'array',
        ];
    }

    /** @return BelongsTo<Migration, $this> */
    public function migration(): BelongsTo
    {
        return $this->belongsTo(Migration::class);
    }

    /** @return HasOne<Lane, $this> */
    public function lane(): HasOne
    {
        return $this->hasOne(Lane::class);
    }

    /** @return HasOneThrough<Target, Lane, $this> */
    public function target(): HasOneThrough
    {
        return $this->hasOneThrough(Target::class, Lane::class, 'round_id', 'id', 'id', 'target_id');
    }

    public function laneId(): int
    {
        return $this->lane->id ?? throw new \LogicException("Round $this->name has no lane.");
    }

    /** @return HasMany<Pass, $this> */
    public function passes(): HasMany
    {
        return $this->hasMany(Pass::class);
    }

    /** @return HasMany<RoundLoad, $this> */
    public function roundLoads(): HasMany
    {
        return $this->hasMany(RoundLoad::class);
    }

    public function latestPass(): ?Pass
    {
        return $this->passes()->latest('id')->first();
    }

    public function label(): string
    {
        return ucfirst(str_replace('-', ' ', $this->name));
    }
}
