<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property ?int $migration_id
 * @property ?int $user_id
 * @property string $what
 * @property ?array<string, mixed> $detail
 * @property ?string $ip from where; null for what the command line or a worker did
 * @property \Illuminate\Support\Carbon $at
 */
final class AuditEntry extends Model
{
    protected $guarded = [];

    public $timestamps = false;

    protected function casts(): array
    {
        return [
            'detail' => 'array',
            'at' => 'datetime',
        ];
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}
