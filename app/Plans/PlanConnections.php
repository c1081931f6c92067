<?php

namespace App\Plans;

use App\Models\Connection;
use App\Models\Migration;
use App\Models\Source;
use App\Models\Target;
use App\Support\Environment;
use Baggage\Core\Plan\Items;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Plan\PlanFile;
use Baggage\Core\Reading\Database\Address;
use Baggage\Core\Reading\Database\AddressError;
use Baggage\Core\Reading\Database\Driver;

/** The connections a plan describes, checked before they are kept. */
final readonly class PlanConnections
{
    private const PLACE = ['driver', 'host', 'port', 'database', 'username'];

    /**
     * @param  bool  $commandLine  whether names from the environment are filled in
     * @param  array<string, mixed>  $merged  items of the plan as it is applied
     * @param  array<string, mixed>  $said  those the file itself says; what a screen says of a connection is kept as it is there, and gets
     *                                      no secret of the file's
     */
    public function __construct(private PlanFile $file, private bool $commandLine, private array $merged, private array $said)
    {
    }

    /**
     * Whether the file itself describes the connection so.
     *
     * @param  list<string>  $path  of names
     */
    private function isOfFile(array $path): bool
    {
        $name = Items::path(...$path);

        return isset($this->said[$name]) && $this->said[$name] == ($this->merged[$name] ?? null);
    }

    /**
     * @param  list<array<string, mixed>>  $connections
     *
     * @throws PlanError
     */
    public function targets(Migration $migration, array $connections): void
    {
        $others = $migration->targets()->whereNotIn('name', array_column($connections, 'name'))->whereDoesntHave('rounds');
        $others->get()->each->delete();
        foreach ($connections as $i => $c) {
            if (! $this->isOfFile(['target', 'connections', $c['name']])) {
                continue;
            }
            $this->keep(
                $migration->targets()->firstOrNew(['name' => $c['name']]),
                [
                    'name' => $c['name'],
                    'host' => $c['host'],
                    'port' => (string) ($c['port'] ?? '3306'),
                    'database' => $c['database'],
                    'username' => $c['username'],
                ],
                $c['password_env'] ?? null,
                ['target', 'connections', $i],
            );
        }
    }

    /**
     * @param  list<array<string, mixed>>  $connections
     *
     * @throws PlanError
     */
    public function ofSource(Source $source, int $number, array $connections): void
    {
        $others = Connection::query()->where('source_id', $source->id)->whereNotIn('name', array_column($connections, 'name'));
        $others->get()->each->delete();
        foreach ($connections as $i => $c) {
            if (! $this->isOfFile(['sources', $source->code, 'connections', $c['name']])) {
                continue;
            }
            $this->keep(
                Connection::query()->firstOrNew(['source_id' => $source->id, 'name' => $c['name']]),
                [
                    'name' => $c['name'],
                    'driver' => Driver::from($c['driver']),
                    'host' => $c['host'] ?? null,
                    'port' => isset($c['port']) ? (string) $c['port'] : null,
                    'database' => $c['database'] ?? null,
                    'username' => $c['username'] ?? null,
                    'notes' => $c['notes'] ?? null,
                ],
                $c['password_env'] ?? null,
                ['sources', $number, 'connections', $i],
            );
        }
    }

    /**
     * @param  array<string, mixed>  $settings
     * @param  list<string|int>  $path
     */
    private function keep(Connection|Target $described, array $settings, ?string $secret, array $path): void
    {
        $described->fill($settings);
        // What a plan read on the command line described stays usable when the same is read on a screen.
        if (
            $this->commandLine
            || ! $described->exists
            || $described->isDirty(self::PLACE)
            || $described->password_env !== $secret
        ) {
            $this->check($described, $secret, $path);
            $described->from_command_line = $this->commandLine;
            $described->password_env = $secret;
        }
        $described->save();
    }

    /** @param  list<string|int>  $path */
    private function check(Connection|Target $described, ?string $secret, array $path): void
    {
        $parts = array_map(strval(...), $described->only(['host', 'port', 'database', 'username']));
        foreach ([...$parts, 'password_env' => $secret === null ? '' : "\${{$secret}}"] as $part => $text) {
            $refused = Environment::refused($text);
            if ($refused !== null) {
                $this->refuse(
                    "$refused is not a name a plan may take from the environment: use one that begins with BAGGAGE_SECRET_",
                    [...$path, $part],
                );
            }
        }
        if (! $this->commandLine && preg_grep('/\$\{/', $parts) !== []) {
            $this->refuse(
                'names from the environment are filled in only where a plan is read on the command line: write the value itself',
                $path,
            );
        }
        $filled = $this->commandLine ? array_map(Environment::fill(...), $parts) : $parts;
        try {
            Address::of(
                $described instanceof Connection ? $described->driver->value : Driver::Mysql->value,
                $filled['host'],
                $filled['port'],
                $filled['database'],
            );
        } catch (AddressError $e) {
            // What the environment filled in is not printed.
            $this->refuse(
                $filled === $parts ? $e->getMessage() : 'what the environment gives here is no address of a database',
                [...$path, $e->part],
            );
        }
    }

    /** @param  list<string|int>  $path */
    private function refuse(string $why, array $path): never
    {
        throw $this->file->wrong($path, $why);
    }
}
