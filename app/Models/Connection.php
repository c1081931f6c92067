<?php

namespace App\Models;

use App\Support\Environment;
use Baggage\Core\Reading\Database\Driver;
use Illuminate\Database\Eloquent\Attributes\ObservedBy;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A named way into a source: a database, or a service that gives JSON over HTTP.
 *
 * @property int $id
 * @property int $source_id
 * @property string $name
 * @property ?string $notes
 * @property Driver $driver
 * @property ?string $host
 * @property ?string $port
 * @property ?string $database
 * @property ?string $username
 * @property ?string $password
 * @property ?string $password_env
 * @property bool $from_command_line whether a plan read there described it, so that names from the environment are filled in
 */
#[ObservedBy(ForgetsSecret::class)]
final class Connection extends Model
{
    /** What a form shows of it, and what that is called. */
    public const SHOWN = [
        'driver' => 'Kind',
        'host' => 'Host',
        'port' => 'Port',
        'database' => 'Database',
        'username' => 'User',
        'notes' => 'Notes',
    ];

    protected $guarded = [];

    protected $hidden = ['password'];

    protected function casts(): array
    {
        return ['driver' => Driver::class, 'password' => 'encrypted', 'from_command_line' => 'boolean'];
    }

    /** @return BelongsTo<Source, $this> */
    public function source(): BelongsTo
    {
        return $this->belongsTo(Source::class);
    }

    /** " at host port 5432", or nothing where it has no host. */
    public function place(): string
    {
        return $this->host ? ' at '.$this->shown('host').($this->port ? ' port '.$this->shown('port') : '') : '';
    }

    /** A part of it as people wrote it: a name from the environment stays a name. */
    public function shown(string $part): string
    {
        return Environment::named((string) $this->getAttribute($part));
    }
}
