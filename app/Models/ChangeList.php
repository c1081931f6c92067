<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Casts\Attribute;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * What a document that came back says differently, each change to be accepted or not.
 *
 * @property int $id
 * @property int $migration_id
 * @property ListKind $kind
 * @property string $file_name
 * @property list<Change> $changes
 * @property ?array<mixed> $description of a target: its entities; of a plan: its text
 * @property ?int $user_id
 * @property \Illuminate\Support\Carbon $created_at
 */
final class ChangeList extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return ['kind' => ListKind::class, 'description' => 'array'];
    }

    /** A list of Change, kept as JSON. */
    protected function changes(): Attribute
    {
        return Attribute::make(
            get: fn (string $json) => array_map(Change::fromArray(...), json_decode($json, true)),
            set: fn (array $changes) => json_encode(array_map(fn (Change $c) => $c->toArray(), $changes), JSON_THROW_ON_ERROR),
        );
    }

    /** @return array<int, Change> by number, those nobody has decided about */
    public function open(): array
    {
        return array_filter($this->getAttribute('changes'), fn (Change $c) => $c->isOpen());
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}
