<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Support\Carbon;

/**
 * That somebody is logged in somewhere. Where it is gone, they are out.
 *
 * @property int $id
 * @property int $user_id
 * @property ?string $ip from where it was begun
 * @property string $agent what the browser calls itself
 * @property Carbon $began_at
 * @property Carbon $seen_at when its owner did something in it, to the half minute
 * @property User $user
 */
final class LoginSession extends Model
{
    protected $guarded = [];

    protected $hidden = ['token'];

    public $timestamps = false;

    protected function casts(): array
    {
        return ['began_at' => 'datetime', 'seen_at' => 'datetime'];
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }
}
