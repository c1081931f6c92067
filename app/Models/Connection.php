<?php

namespace App\Models;

use App\Support\Environment;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A named way into a source: a database, or a service that gives JSON over HTTP.
 *
 * @property int $id
 * @property int $source_id
 * @property string $name
 * @property ?string $notes
 * @property string $driver
 * @property ?string $host
 * @property ?string $port
 * @property ?string $database
 * @property ?string $username
 * @property ?string $password
 * @property ?string $password_env
 */
final class Connection extends Model
{
    public const DRIVERS = ['mysql' => 'MariaDB or MySQL', 'pgsql' => 'PostgreSQL', 'dblib' => 'SQL Server', 'odbc' => 'ODBC', 'http' => 'a service, JSON over HTTP'];

    protected $guarded = [];

    protected $hidden = ['password'];

    protected function casts(): array
    {
        return ['password' => 'encrypted'];
    }

    /** @return BelongsTo<Source, $this> */
    public function source(): BelongsTo
    {
        return $this->belongsTo(Source::class);
    }

    /** A setting with ${NAME} replaced from the environment. */
    public function resolved(string $setting): string
    {
        return Environment::fill((string) $this->getAttribute($setting));
    }

    public function secret(): ?string
    {
        return $this->password_env === null ? $this->password : Environment::get($this->password_env);
    }
}
