<?php

namespace App\Models;

use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Support\Env;

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
        return (string) preg_replace_callback('/\$\{([A-Z_][A-Z0-9_]*)(?::-([^}]*))?\}/', fn ($m) => self::environment($m[1], $m[2] ?? ''), (string) $this->getAttribute($setting));
    }

    public function secret(): string
    {
        return $this->password_env === null ? (string) $this->password : self::environment($this->password_env, '');
    }

    /** Baggage's own secrets are no setting of a target: a plan must not be able to send them anywhere. */
    private static function environment(string $name, string $otherwise): string
    {
        return preg_match('/^(APP|DB)_/', $name) === 1 ? $otherwise : (string) Env::get($name, $otherwise);
    }
}
