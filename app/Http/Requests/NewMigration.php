<?php

namespace App\Http\Requests;

use App\Models\Migration;
use Baggage\Core\Reading\Database\Driver;
use Illuminate\Validation\Rule;

/** A migration with the first connection to its target. */
final class NewMigration extends DescribesConnection
{
    public function authorize(): bool
    {
        return $this->user()?->can('create', Migration::class) ?? false;
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        return [
            // Among one's own: of others' nobody learns.
            'name' => ['required', 'string', 'max:200', Rule::unique('migrations', 'name')->where(
                fn ($q) => $q->whereIn('id', array_keys($this->user()?->roles() ?? [])),
            )],
            'target_name' => 'required|string|max:200',
            'host' => 'required|string|max:250',
            'port' => 'required|string|max:40',
            'database' => 'required|string|max:64',
            'username' => 'required|string|max:80',
            'password' => 'nullable|string|max:250',
        ];
    }

    protected function described(): null
    {
        return null;
    }

    protected function driver(): string
    {
        return Driver::Mysql->value;
    }
}
