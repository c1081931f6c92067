<?php

namespace App\Models;

use Baggage\Core\Reading\Columns;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $extract_id
 * @property int $number
 * @property TakeState $state
 * @property string $file
 * @property string $file_name
 * @property int $bytes
 * @property int $bytes_read
 * @property ?string $checksum
 * @property ?int $rows
 * @property ?int $source_rows
 * @property ?string $counted_by
 * @property ?list<array{header: string, name: string}> $columns
 * @property ?array<string, mixed> $parameters
 * @property ?array<string, mixed> $compared
 * @property ?array<string, mixed> $recipe
 * @property ?array<string, mixed> $reader how it was read
 * @property ?array<string, mixed> $arithmetic
 * @property ?list<array<string, mixed>> $profile
 * @property ?string $error
 * @property int $attempts
 * @property ?array<string, int> $study_attempts by step
 * @property ?\Illuminate\Support\Carbon $taken_at
 * @property ?int $user_id
 */
final class Take extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'state' => TakeState::class,
            'profile' => 'array',
            'columns' => 'array',
            'parameters' => 'array',
            'compared' => 'array',
            'recipe' => 'array',
            'reader' => 'array',
            'arithmetic' => 'array',
            'study_attempts' => 'array',
            'taken_at' => 'datetime',
        ];
    }

    /** What the source itself says of the number of rows. */
    public function ownCount(): string
    {
        return $this->counted_by === null ? 'The source has no count of its own.'
            : ucfirst($this->counted_by).' there are '.number_format((int) $this->source_rows).' rows.';
    }

    /** @return list<string> of its columns */
    public function headers(): array
    {
        return array_column($this->columns ?? [], 'header');
    }

    public function tidyColumns(): Columns
    {
        return Columns::fromArray($this->columns ?? []);
    }

    /** @return BelongsTo<Extract, $this> */
    public function extract(): BelongsTo
    {
        return $this->belongsTo(Extract::class);
    }
}
