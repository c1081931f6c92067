<?php

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/** What becomes of one code, as its line on the crosswalk page sends it. */
final class CodeLine extends FormRequest
{
    public function authorize(): bool
    {
        return $this->user()?->can('repair', $this->route('migration')) ?? false;
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        return [
            'old' => 'required|string|max:190',
            'new' => 'nullable|string|max:190',
            'is' => 'nullable|in:value,empty,reject',
            'note' => 'nullable|string|max:500',
        ];
    }

    /** @return array<string, string> */
    public function attributes(): array
    {
        return ['is' => 'decision', 'old' => 'old value', 'new' => 'new value'];
    }

    /** @return 'value'|'empty'|'reject' */
    public function decision(): string
    {
        return $this->input('is') ?? 'value';
    }

    public function value(): string
    {
        return trim((string) $this->input('new'));
    }
}
