<?php

namespace App\Models;

use App\Support\Address;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Illuminate\Foundation\Auth\User as Authenticatable;
use Illuminate\Support\Carbon;

/**
 * @property int $id
 * @property string $name
 * @property string $email as it was written
 * @property string $address as accounts are told apart by it
 * @property bool $is_administrator of the installation: accounts and who may log in; no migration is seen by it
 * @property ?Carbon $disabled_at
 * @property string $zone
 * @property ?string $password hashed; null until its owner has set it
 * @property ?string $totp_secret of its second factor, base32; encrypted at rest
 * @property ?Carbon $totp_since when it was confirmed by a first code; null while there is none to ask for
 * @property int $totp_step the last one a code of which has opened
 */
final class User extends Authenticatable
{
    protected $guarded = [];

    protected $attributes = ['is_administrator' => false, 'zone' => 'UTC', 'totp_step' => 0];

    protected $hidden = ['password', 'totp_secret'];

    /** @var array<int, Role> migration → role */
    private array $roles = [];

    /** Of which change of memberships they are. */
    private int $rolesOf = -1;

    protected static function booted(): void
    {
        self::saving(function (User $user) {
            $user->address = Address::normal($user->email);
        });
    }

    protected function casts(): array
    {
        return [
            'password' => 'hashed',
            'is_administrator' => 'boolean',
            'disabled_at' => 'datetime',
            'totp_secret' => 'encrypted',
            'totp_since' => 'datetime',
        ];
    }

    /** @return HasMany<Membership, $this> */
    public function memberships(): HasMany
    {
        return $this->hasMany(Membership::class);
    }

    public function hasSecondFactor(): bool
    {
        return $this->totp_since !== null;
    }

    /** @return Builder<self> whoever has this address, however it is written */
    public static function addressed(string $typed): Builder
    {
        return self::query()->where('address', Address::normal($typed));
    }

    /** What they are in a migration; null for one they are no member of. */
    public function roleIn(Migration|int $migration): ?Role
    {
        return $this->roles()[$migration instanceof Migration ? $migration->id : $migration] ?? null;
    }

    /** @return array<int, Role> migration → role */
    public function roles(): array
    {
        if ($this->rolesOf !== Membership::$turns) {
            $this->roles = Membership::query()->where('user_id', $this->id)->pluck('role', 'migration_id')->all();
            $this->rolesOf = Membership::$turns;
        }

        return $this->roles;
    }

    public function may(Right $right, Migration $migration): bool
    {
        return $this->roleIn($migration)?->may($right) ?? false;
    }

    public function mayBegin(): bool
    {
        return $this->is_administrator || in_array(Role::Lead, $this->roles(), true);
    }

    /**
     * @param  array<int|null>  $ids
     * @return array<int, string> id → name
     */
    public static function names(array $ids): array
    {
        $ids = array_unique(array_filter($ids));

        return $ids === [] ? [] : self::query()->whereIn('id', $ids)->pluck('name', 'id')->all();
    }
}
