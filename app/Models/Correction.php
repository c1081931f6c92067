<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A value a person put over what an extract says.
 *
 * @property int $id
 * @property int $extract_id
 * @property int $row_key_id which row it is about
 * @property string $header
 * @property bool $whole whether it replaces the whole row; the values are all its cells as JSON then
 * @property ?string $old_value as read
 * @property ?string $new_value
 * @property ?string $reason
 * @property int $decision its number
 * @property int $ended number of the decision that ended it, 0 while it counts
 * @property ?int $until_take number of the take from which on the source's word counts again
 * @property ?int $user_id
 * @property \Illuminate\Support\Carbon $created_at
 */
final class Correction extends Model
{
    protected $guarded = [];

    protected function casts(): array
    {
        return ['whole' => 'boolean'];
    }

    protected static function booted(): void
    {
        self::addGlobalScope('counts', fn (Builder $q) => $q->where('corrections.ended', 0));
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /** @return BelongsTo<Extract, $this> */
    public function extract(): BelongsTo
    {
        return $this->belongsTo(Extract::class);
    }
}
