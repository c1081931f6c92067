<?php

namespace App\Http\Requests;

use App\Models\Load;
use App\Models\MatchRule;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Mapping\GonePolicy;
use Baggage\Core\Mapping\OthersPolicy;
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
            'key' => 'required|array|min:1',
            'key.*' => 'string',
            'key_space' => 'nullable|string|alpha_dash:ascii|max:12',
            'key_normalisation' => ['required', Rule::enum(KeyNormalisation::class)],
            'scope' => 'nullable|string|max:4000',
            'scope_reason' => 'nullable|string|max:500',
            'policy' => ['required', Rule::enum(WritePolicy::class)],
            'gone' => ['sometimes', Rule::enum(GonePolicy::class)],
            'others' => ['sometimes', Rule::enum(OthersPolicy::class)],
            'match_place' => 'nullable|array',
            'match_place.*' => 'nullable|integer|min:1|max:99',
            'match_name' => 'nullable|string|max:90',
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
            'gone' => $this->input('gone', $load->gone->value),
            'others' => $this->input('others', $load->others->value),
            'match_rules' => $this->matchRules($load) ?: null,
        ];
    }

    /** @return list<string> names of the rules that have a place, in its order, and last the one that is described anew */
    private function matchRules(Load $load): array
    {
        $places = array_filter((array) $this->input('match_place'), fn ($place) => $place !== null && $place !== '');
        asort($places, SORT_NUMERIC);
        $ids = $load->entity->matchRules()->pluck('name', 'id')->all();
        $names = array_values(array_filter(array_map(fn ($id) => $ids[$id] ?? null, array_keys($places))));
        $on = $this->described($load);
        if ($on !== []) {
            $names[] = MatchRule::comparing($load->entity_id, $on, $this->filledText('match_name'))->name;
        }

        return array_values(array_unique($names));
    }

    /** @return array<string, string> field → how it is compared */
    private function described(Load $load): array
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
