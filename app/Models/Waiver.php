<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A row that stays behind for one cause, known by its legacy key, or by its row where that is blank or repeated.
 *
 * @property int $id
 * @property int $load_id
 * @property int $round_id it was decided in
 * @property ?string $legacy_key
 * @property ?int $row_key_id
 * @property string $cause_hash
 * @property string $reason
 * @property ?int $user_id
 * @property int $decision its number
 * @property int $ended number of the decision that took it back, 0 while it counts
 * @property \Illuminate\Support\Carbon $created_at
 */
final class Waiver extends Model
{
    protected $guarded = [];

    protected static function booted(): void
    {
        self::addGlobalScope('counts', fn (Builder $q) => $q->where('waivers.ended', 0));
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}
