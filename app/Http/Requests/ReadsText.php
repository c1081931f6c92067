<?php

namespace App\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/** @mixin FormRequest */
trait ReadsText
{
    /** What stands in a field of the form, trimmed; null where nothing does. */
    public function filledText(string $name): ?string
    {
        $text = trim((string) $this->input($name));

        return $text === '' ? null : $text;
    }
}
