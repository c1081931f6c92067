<?php

namespace App\Models;

use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\ReaderSettings;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * @property int $id
 * @property int $source_id
 * @property string $name
 * @property ?string $origin
 * @property array<string, mixed> $reader
 * @property ?list<array{header: string, name: string}> $columns
 * @property ?int $take_id
 */
final class Extract extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'reader' => 'array',
            'columns' => 'array',
        ];
    }

    /** @return BelongsTo<Source, $this> */
    public function source(): BelongsTo
    {
        return $this->belongsTo(Source::class);
    }

    /** @return HasMany<Take, $this> */
    public function takes(): HasMany
    {
        return $this->hasMany(Take::class);
    }

    /** @return HasMany<Load, $this> */
    public function loads(): HasMany
    {
        return $this->hasMany(Load::class);
    }

    /** @return BelongsTo<Take, $this> the take that loads read */
    public function take(): BelongsTo
    {
        return $this->belongsTo(Take::class);
    }

    public function tidyColumns(): Columns
    {
        return Columns::fromArray($this->columns ?? []);
    }

    /** How it is read, this time and the next. */
    public function settings(): ReaderSettings
    {
        return ReaderSettings::fromArray($this->reader);
    }
}
