<?php

namespace App\Models;

use App\Support\Environment;
use Illuminate\Database\Eloquent\Attributes\ObservedBy;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\BelongsToMany;

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
 * @property bool $from_command_line whether a plan read there described it, so that names from the environment are filled in
 */
#[ObservedBy(ForgetsSecret::class)]
final class Target extends Model
{
    /** What a form shows of it, and what that is called. */
    public const PLACE = ['name' => 'Name', 'host' => 'Host', 'port' => 'Port', 'database' => 'Database', 'username' => 'User'];

    protected $guarded = [];

    protected $hidden = ['password'];

    protected function casts(): array
    {
        return [
            'password' => 'encrypted',
            'from_command_line' => 'boolean',
        ];
    }

    /** @return BelongsTo<Migration, $this> */
    public function migration(): BelongsTo
    {
        return $this->belongsTo(Migration::class);
    }

    /** @return BelongsToMany<Round, $this> */
    public function rounds(): BelongsToMany
    {
        return $this->belongsToMany(Round::class, 'lanes');
    }

    /** Where its password comes from; never the password. */
    public function secretInWords(): string
    {
        return match (true) {
            $this->password !== null && $this->password !== '' => 'given',
            $this->password_env !== null => "from $this->password_env",
            $this->password === null => 'none yet',
            default => 'none',
        };
    }

    /** A part of it as people wrote it: a name from the environment stays a name. */
    public function shown(string $part): string
    {
        return Environment::named((string) $this->getAttribute($part));
    }
}
