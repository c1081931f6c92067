<?php

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/** A rule as its line on the mapping page sends it, with the version the person was looking at. */
final class RuleLine extends FormRequest
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
            'expression' => 'nullable|string|max:4000',
            'empty_reason' => 'nullable|string|max:1000',
            'note' => 'nullable|string|max:1000',
            'version' => 'required|integer',
        ];
    }
}
