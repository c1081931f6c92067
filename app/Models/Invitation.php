<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;

/**
 * A link with which somebody sets their password, once.
 *
 * @property int $id
 * @property int $user_id
 * @property Carbon $expires_at
 * @property User $user
 */
final class Invitation extends Model
{
    private const DAYS = 7;

    protected $guarded = [];

    protected $hidden = ['token'];

    public $timestamps = false;

    protected function casts(): array
    {
        return ['expires_at' => 'datetime'];
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /** @return string its path, which nothing keeps: only the hash of its token is stored. Older ones of the same person end. */
    public static function link(User $user): string
    {
        $token = Str::random(48);
        self::query()->where('user_id', $user->id)->delete();
        self::query()->create([
            'user_id' => $user->id,
            'made_by' => Auth::id(),
            'token' => hash('sha256', $token, true),
            'expires_at' => now()->addDays(self::DAYS),
        ]);

        return "/join/$token";
    }

    /**
     * @param  string  $zone  of the browser; of no effect where there is none of that name
     * @return bool whether it was still there to be used
     */
    public function take(string $name, string $password, string $zone = ''): bool
    {
        return DB::transaction(function () use ($name, $password, $zone) {
            if (self::query()->whereKey($this->id)->delete() === 0) {
                return false;
            }
            $known = in_array($zone, \DateTimeZone::listIdentifiers(), true) ? ['zone' => $zone] : [];
            $this->user->update(['name' => $name, 'password' => $password] + $known);
            LoginSession::query()->where('user_id', $this->user_id)->delete();

            return true;
        });
    }

    public static function of(string $token): ?self
    {
        return self::query()
            ->where('token', hash('sha256', $token, true))
            ->where('expires_at', '>', now())
            ->whereHas('user', fn ($user) => $user->whereNull('disabled_at'))
            ->first();
    }
}
