<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * @property int $id
 * @property int $migration_id
 * @property string $name
 */
final class CodeCrosswalk extends Model
{
    protected $guarded = [];

    /** @return BelongsTo<Migration, $this> */
    public function migration(): BelongsTo
    {
        return $this->belongsTo(Migration::class);
    }

    /** @return HasMany<CodeEntry, $this> */
    public function entries(): HasMany
    {
        return $this->hasMany(CodeEntry::class);
    }
}
