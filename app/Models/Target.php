<?php

namespace App\Models;

use App\Support\Environment;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $migration_id
 * @property string $name
 * @property string $host
 * @property string $port
 * @property string $database
 * @property string $username
 * @property ?string $password
 * @property ?string $password_env
 * @property bool $is_standin
 */
final class Target extends Model
{
    protected $guarded = [];

    protected $hidden = ['password'];

    protected function casts(): array
    {
        return [
            'password' => 'encrypted',
            'is_standin' => 'boolean',
        ];
    }

    /** @return BelongsTo<Migration, $this> */
    public function migration(): BelongsTo
    {
        return $this->belongsTo(Migration::class);
    }

    /** A setting with ${NAME} or ${NAME:-otherwise} replaced from the environment. */
    public function resolved(string $setting): string
    {
        return Environment::fill((string) $this->getAttribute($setting));
    }

    public function secret(): string
    {
        return $this->password_env === null ? (string) $this->password : Environment::get($this->password_env);
    }
}
