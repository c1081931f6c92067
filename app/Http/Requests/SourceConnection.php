<?php

namespace App\Http\Requests;

use App\Models\Connection;
use App\Models\Source;
use Baggage\Core\Reading\Database\Driver;
use Illuminate\Validation\Rule;

/** A connection of a source, by its name. */
final class SourceConnection extends DescribesConnection
{
    public function authorize(): bool
    {
        return $this->user()?->can('work', $this->route('migration')) ?? false;
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        return [
            'name' => ['required', 'string', 'max:60', 'regex:~^[\w .\-]+$~u'],
            'driver' => ['required', Rule::enum(Driver::class)],
            'host' => 'nullable|string|max:250',
            'port' => 'nullable|string|max:40',
            'database' => 'nullable|string|max:200',
            'username' => 'nullable|string|max:100',
            'password' => 'nullable|string|max:2000',
            'notes' => 'nullable|string|max:2000',
        ];
    }

    public function connection(): Connection
    {
        /** @var Source $source */
        $source = $this->route('source');

        return Connection::query()->firstOrNew(['source_id' => $source->id, 'name' => $this->text('name')]);
    }

    protected function described(): ?Connection
    {
        $connection = $this->connection();

        return $connection->exists ? $connection : null;
    }

    protected function driver(): string
    {
        return $this->text('driver');
    }
}
