<?php

namespace App\Http\Requests;

use Baggage\Core\Reconciling\ControlTotal;
use Baggage\Core\Reconciling\GroupBy;
use Baggage\Core\Reconciling\TotalKind;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rule;

/** A control total as its form sends it. */
final class TotalForm extends FormRequest
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
            'name' => 'nullable|string|max:100',
            'entity' => 'required|string|max:190',
            'load' => 'nullable|string|max:190',
            'kind' => ['required', Rule::enum(TotalKind::class)],
            'field' => 'nullable|string|max:190',
            'group_field' => 'nullable|string|max:190',
            'group_of' => ['nullable', Rule::in(['', ...array_column(GroupBy::cases(), 'value')])],
            'parent_field' => 'nullable|string|max:190',
            'legacy' => 'nullable|array', 'legacy.*' => 'nullable|string|max:4000',
            'group' => 'nullable|array', 'group.*' => 'nullable|string|max:4000',
            'parent' => 'nullable|array', 'parent.*' => 'nullable|string|max:4000',
            'tolerance' => 'nullable|string|max:60',
            'because' => 'nullable|string|max:500',
            'version' => 'nullable|integer',
        ];
    }

    public function total(): ControlTotal
    {
        return new ControlTotal(
            (string) $this->filledText('name'),
            (string) $this->input('entity'),
            $this->filledText('load'),
            TotalKind::from((string) $this->input('kind')),
            (string) $this->input('field'),
            $this->texts('legacy'),
            $this->filledText('group_field'),
            GroupBy::tryFrom((string) $this->input('group_of')) ?? GroupBy::Value,
            $this->texts('group'),
            $this->filledText('parent_field'),
            $this->texts('parent'),
            $this->filledText('tolerance') ?? '0',
            $this->filledText('because'),
        );
    }

    /** @return string|array<string, string> one for all loads, or by load */
    private function texts(string $name): string|array
    {
        $given = array_filter(array_map(fn ($t) => trim((string) $t), (array) $this->input($name)), fn (string $t) => $t !== '');

        return match (true) {
            $given === [] => '',
            array_keys($given) === [''] || $this->filledText('load') !== null => (string) reset($given),
            default => array_map(strval(...), $given),
        };
    }
}
