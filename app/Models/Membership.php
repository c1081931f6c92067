<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * That somebody belongs to a migration, and as what.
 *
 * @property int $user_id
 * @property int $migration_id
 * @property Role $role
 */
final class Membership extends Model
{
    /** How often roles were given and taken here, so that nobody goes by what was known before. */
    public static int $turns = 0;

    protected $guarded = [];

    public $timestamps = false;

    public $incrementing = false;

    protected $primaryKey = 'user_id';

    protected function casts(): array
    {
        return ['role' => Role::class];
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    /** Gives a role, or changes the one that was given. */
    public static function give(User $user, Migration $migration, Role $role): void
    {
        self::query()->upsert(
            [['user_id' => $user->id, 'migration_id' => $migration->id, 'role' => $role->value]],
            ['migration_id', 'user_id'],
            ['role'],
        );
        self::$turns++;
    }

    public static function take(User $user, Migration $migration): void
    {
        self::query()->where('user_id', $user->id)->where('migration_id', $migration->id)->delete();
        self::$turns++;
    }
}
