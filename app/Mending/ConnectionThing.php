<?php

namespace App\Mending;

use App\Models\Connection;
use App\Models\Extract;

final readonly class ConnectionThing implements Thing
{
    public function __construct(private Connection $connection)
    {
    }

    public function label(): string
    {
        return "the connection {$this->connection->name} of {$this->connection->source->code}";
    }

    public function fields(): array
    {
        $of = $this->connection;

        return [
            'name' => ['label' => 'Name', 'value' => $of->name],
            'host' => ['label' => 'Host', 'value' => (string) $of->host],
            'port' => ['label' => 'Port', 'value' => (string) $of->port],
            'database' => ['label' => 'Database', 'value' => (string) $of->database],
            'username' => ['label' => 'User', 'value' => (string) $of->username],
            'password' => ['label' => 'Password, empty to keep it', 'value' => '', 'secret' => true],
            'notes' => ['label' => 'Notes', 'value' => (string) $of->notes],
        ];
    }

    public function hangs(): array
    {
        $extracts = $this->extracts();

        return $extracts === [] ? [] : [
            implode(', ', $extracts).' '.(count($extracts) === 1 ? 'was' : 'were').' read through it: what was read stays, and cannot be '
                .'read again.',
        ];
    }

    public function holds(): array
    {
        return [];
    }

    public function change(array $values): void
    {
        if (($values['name'] ?? 'x') === '') {
            throw new \DomainException('A connection has a name.');
        }
        $name = $values['name'] ?? $this->connection->name;
        $taken = Connection::query()->where('source_id', $this->connection->source_id)->whereKeyNot($this->connection->id)
            ->where('name', $name);
        if ($taken->exists()) {
            throw new \DomainException("The source has a connection $name already.");
        }
        if (($values['password'] ?? '') === '') {
            unset($values['password']);
        } else {
            $values['password_env'] = null;
        }
        $before = $this->connection->name;
        $this->connection->update($values);
        foreach ($before === $name ? [] : $this->reading($before) as $extract) {
            $extract->update(['reader' => ['connection' => $name] + $extract->reader]);
        }
    }

    public function remove(): void
    {
        $this->connection->delete();
    }

    public function after(): string
    {
        return "/m/{$this->connection->source->migration_id}/sources";
    }

    /** @return list<string> */
    private function extracts(): array
    {
        return array_map(fn (Extract $e) => $e->name, $this->reading($this->connection->name));
    }

    /** @return list<Extract> */
    private function reading(string $connection): array
    {
        return array_values(Extract::query()->where('source_id', $this->connection->source_id)->get()
            ->filter(fn (Extract $e) => ($e->reader['connection'] ?? null) === $connection)
            ->all());
    }
}
