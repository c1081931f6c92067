<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * @property int $id
 * @property int $migration_id
 * @property int $target_id
 * @property string $kind
 * @property string $name
 * @property int $number
 * @property array<string, int> $target_before
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
            'target_before' => 'array',
            'parameters' => 'array',
        ];
    }

    /** @return BelongsTo<Migration, $this> */
    public function migration(): BelongsTo
    {
        return $this->belongsTo(Migration::class);
    }

    /** @return BelongsTo<Target, $this> */
    public function target(): BelongsTo
    {
        return $this->belongsTo(Target::class);
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
