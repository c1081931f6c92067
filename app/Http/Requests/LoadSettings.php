<?php

namespace App\Http\Requests;

use App\Models\Load;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Mapping\WritePolicy;
use Baggage\Core\Matching\Normaliser;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/** Key, scope, policy and match rule of a load, as its form sends them. */
final class LoadSettings extends FormRequest
{
    use ReadsText;

    public function authorize(): bool
    {
        return $this->user()?->can('work', $this->route('migration')) ?? false;
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        return [
            'version' => 'required|integer',
            'key' => 'required|array|min:1',
            'key.*' => 'string',
            'key_space' => 'nullable|string|alpha_dash:ascii|max:12',
            'key_normalisation' => ['required', Rule::enum(KeyNormalisation::class)],
            'scope' => 'nullable|string|max:4000',
            'scope_reason' => 'nullable|string|max:500',
            'policy' => ['required', Rule::enum(WritePolicy::class)],
            'match_field' => 'nullable|array',
            'match_field.*' => 'nullable|string',
            'match_how' => 'nullable|array',
            'match_how.*' => ['nullable', Rule::enum(Normaliser::class)],
        ];
    }

    public function scope(): ?string
    {
        return $this->filledText('scope');
    }

    public function scopeReason(): ?string
    {
        return $this->filledText('scope_reason');
    }

    /** @return array<string, mixed> columns of the load */
    public function settings(Load $load): array
    {
        $columns = $load->extract->tidyColumns();
        $space = $this->filledText('key_space');

        return [
            'key_columns' => array_values(array_filter($this->input('key'), fn ($k) => $columns->find($k) !== null)),
            'key_space' => $space === $load->extract->source->code ? null : $space,
            'key_normalisation' => $this->input('key_normalisation'),
            'scope' => $this->scope(),
            'scope_reason' => $this->scope() === null ? null : $this->scopeReason(),
            'policy' => $this->input('policy'),
            'match_on' => $this->matchOn($load),
        ];
    }

    /** @return array<string, string> field → how it is compared */
    private function matchOn(Load $load): array
    {
        $writable = $load->entity->described()->writable();
        $match = [];
        foreach ($this->input('match_field') ?? [] as $i => $field) {
            if (isset($writable[(string) $field])) {
                $match[(string) $field] = $this->input("match_how.$i") ?? 'exact';
            }
        }

        return $match;
    }
}
