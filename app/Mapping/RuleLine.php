<?php

namespace App\Mapping;

use App\Models\Load;
use App\Models\Rule;
use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Targets\Conditions\Condition;
use Baggage\Core\Targets\Field;

/** One line of the rule sheet: a target field, its rule, and what the rule makes of sampled rows. */
final readonly class RuleLine
{
    /**
     * @param  list<array{before: list<string|null>, after: string|ParentKey|Cause|null}>  $samples
     * @param  int  $rejected  rows of the round this field rejected
     * @param  list<string>  $codes  names of the code crosswalks its rule uses
     */
    public function __construct(
        public Load $load,
        public Field $field,
        public ?Rule $rule,
        public string $expression,
        public ?string $error,
        public array $samples,
        public int $rejected = 0,
        public array $codes = [],
    ) {
    }

    public function version(): int
    {
        return $this->rule->version ?? 0;
    }

    /** Whether it has neither a rule nor a reason why not. */
    public function isOpen(): bool
    {
        return trim($this->expression) === '' && ! $this->rule?->empty_reason;
    }

    public function noteLabel(): string
    {
        $name = $this->field->name;

        return match (true) {
            trim($this->expression) !== '' => "Note on $name",
            (bool) $this->rule?->empty_reason => "Note: why $name",
            default => "Leave empty: $name",
        };
    }

    /** @return list<string> what the target's checks say of the field */
    public function conditions(): array
    {
        return array_map(
            fn (Condition $c) => $c->wordsBeside($this->field->name),
            $this->load->entity->described()->conditionsOn($this->field->name),
        );
    }

    public function isUnique(): bool
    {
        return $this->load->entity->described()->isUnique($this->field->name);
    }
}
