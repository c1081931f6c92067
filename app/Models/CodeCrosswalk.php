<?php

namespace App\Models;

use Baggage\Core\Crosswalks\Otherwise;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * @property int $id
 * @property int $migration_id
 * @property string $name
 * @property Otherwise $otherwise what becomes of old values without an entry
 * @property ?string $otherwise_value
 * @property ?string $note
 */
final class CodeCrosswalk extends Model
{
    protected $guarded = [];

    protected $attributes = ['otherwise' => Otherwise::Reject->value];

    protected function casts(): array
    {
        return ['otherwise' => Otherwise::class];
    }

    /** @return BelongsTo<Migration, $this> */
    public function migration(): BelongsTo
    {
        return $this->belongsTo(Migration::class);
    }

    /** @return HasMany<CodeVersion, $this> what its entries once said; looked for below it by routes */
    public function codes(): HasMany
    {
        return $this->hasMany(CodeVersion::class);
    }

    /** @return HasMany<CodeEntry, $this> */
    public function entries(): HasMany
    {
        return $this->hasMany(CodeEntry::class);
    }
}
