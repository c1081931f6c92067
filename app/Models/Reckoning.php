<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * Control totals of a round as they were counted, or its records as they were compared, with the time.
 *
 * @property int $id
 * @property int $round_id
 * @property ReckoningKind $kind
 * @property array<string, mixed> $asked how it was asked for
 * @property ?int $pass_id the last pass there was
 * @property ?array<string, mixed> $figures
 * @property ?int $user_id
 * @property \Illuminate\Support\Carbon $begun_at
 * @property ?\Illuminate\Support\Carbon $done_at null while it is counted, or where it broke off
 * @property ?User $user
 */
final class Reckoning extends Model
{
    protected $guarded = [];

    public $timestamps = false;

    protected $dateFormat = 'Y-m-d H:i:s.v';

    protected function casts(): array
    {
        return [
            'kind' => ReckoningKind::class, 'asked' => 'array', 'figures' => 'array', 'begun_at' => 'datetime', 'done_at' => 'datetime',
        ];
    }

    /** @return BelongsTo<Round, $this> */
    public function round(): BelongsTo
    {
        return $this->belongsTo(Round::class);
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}
