<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * @property int $id
 * @property int $migration_id
 * @property string $code
 * @property string $name
 * @property ?string $notes
 */
final class Source extends Model
{
    protected $guarded = [];

    /** @return BelongsTo<Migration, $this> */
    public function migration(): BelongsTo
    {
        return $this->belongsTo(Migration::class);
    }

    /** @return HasMany<Extract, $this> */
    public function extracts(): HasMany
    {
        return $this->hasMany(Extract::class);
    }
}
