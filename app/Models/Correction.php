<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $extract_id
 * @property int $row_no
 * @property string $header
 * @property ?string $old_value
 * @property ?string $new_value
 * @property ?string $reason
 * @property int $replaced 0 while it counts
 * @property ?int $user_id
 * @property \Illuminate\Support\Carbon $created_at
 */
final class Correction extends Model
{
    protected $guarded = [];

    protected static function booted(): void
    {
        self::addGlobalScope('counts', fn (Builder $q) => $q->where('replaced', 0));
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
