<?php

namespace App\Models;

use Illuminate\Foundation\Auth\User as Authenticatable;

/**
 * @property int $id
 * @property string $name
 * @property string $email
 * @property Role $role
 */
final class User extends Authenticatable
{
    protected $guarded = [];

    protected $hidden = ['password', 'remember_token'];

    protected function casts(): array
    {
        return ['password' => 'hashed', 'role' => Role::class];
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
