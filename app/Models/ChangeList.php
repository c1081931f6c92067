<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * What a document that came back says differently, each change to be accepted or not.
 *
 * @property int $id
 * @property int $migration_id
 * @property string $kind
 * @property string $file_name
 *
 * @phpstan-type Change array{
 *     kind: string, where: string, part: string, from: string, to: string, problem: string|null, state: string, data: array<string, mixed>,
 * }
 *
 * @property list<Change> $changes
 * @property ?list<array<string, mixed>> $description
 * @property ?int $user_id
 * @property \Illuminate\Support\Carbon $created_at
 */
final class ChangeList extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return ['changes' => 'array', 'description' => 'array'];
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}
