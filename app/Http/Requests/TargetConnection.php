<?php

namespace App\Http\Requests;

use App\Models\Migration;
use App\Models\Target;
use Baggage\Core\Reading\Database\Driver;
use Illuminate\Validation\Rule;

/** A database rounds may write into. */
final class TargetConnection extends DescribesConnection
{
    public function authorize(): bool
    {
        return $this->user()?->can('work', $this->route('migration')) ?? false;
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        /** @var Migration $migration */
        $migration = $this->route('migration');
        $others = Rule::unique('targets', 'name')->where('migration_id', $migration->id);

        return [
            'name' => ['required', 'string', 'max:60', 'regex:~^[\w .\-]+$~u', $others->ignore($this->described()?->id)],
            'host' => 'required|string|max:250',
            'port' => 'required|string|max:40',
            'database' => 'required|string|max:64',
            'username' => 'required|string|max:80',
            'password' => 'nullable|string|max:250',
        ];
    }

    /** @return array<string, mixed> */
    public function settings(): array
    {
        return ['name' => $this->text('name')] + parent::settings();
    }

    protected function described(): ?Target
    {
        $target = $this->route('target');

        return $target instanceof Target ? $target : null;
    }

    protected function driver(): string
    {
        return Driver::Mysql->value;
    }
}
