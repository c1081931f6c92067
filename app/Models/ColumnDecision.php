<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $extract_id
 * @property string $header
 * @property string $reason
 * @property ?int $user_id
 */
final class ColumnDecision extends Model
{
    protected $guarded = [];

    /** @return BelongsTo<Extract, $this> */
    public function extract(): BelongsTo
    {
        return $this->belongsTo(Extract::class);
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}
