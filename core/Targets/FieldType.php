<?php

namespace Baggage\Core\Targets;

/** What a target field can store. */
interface FieldType
{
    /** A few words for the rule sheet, e.g. "text 40". */
    public function label(): string;

    /**
     * The value as the target will hold it, or why it cannot.
     *
     * @param  string|int|float|bool  $value  never null, never ''
     */
    public function accept(string|int|float|bool $value): string|Refusal;

    /** @return array<string, mixed> for storage and the plan file; `kind` names the type */
    public function toArray(): array;
}
