<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Rows\Stage;

/** Which rows that were left out may fare otherwise now than in the pass that left them out (SEMANTICS of rows that are due). */
final readonly class Due
{
    /** Codes of causes that a code crosswalk makes for one old value. */
    private const OF_CODES = ['no_new_value', 'code_rejected'];

    /** Codes of causes that say a key is nowhere. */
    private const NOWHERE = ['orphan', 'no_match'];

    /**
     * @param  array<string, list<string>>  $usedThen  field → code crosswalks its rule used; those of the scope under ''
     * @param  array<string, list<string>>  $usedNow
     */
    public function __construct(
        private PlanVersion $then,
        private array $usedThen,
        private PlanVersion $now,
        private array $usedNow,
        private int $load,
    ) {
    }

    /** Whether what made such a failure is not as it was: the rule of its field, the code of its value, the key, the scope. */
    public function byRule(Stage $stage, string $code, ?string $field, ?string $value): bool
    {
        return $this->basis($this->then, $this->usedThen, $stage, $code, $field, $value)
            !== $this->basis($this->now, $this->usedNow, $stage, $code, $field, $value);
    }

    /** Whether records made then may differ from those made now: anything the load reads changed. */
    public function isStale(): bool
    {
        return self::part($this->then, $this->usedThen, $this->load) !== self::part($this->now, $this->usedNow, $this->load);
    }

    /**
     * Whether a row left out for its parent, or for the key it looked for, may find something else there.
     *
     * @param  KeyState|null  $parent  as it is now; null where it is nowhere
     */
    public static function byParent(string $code, ?KeyState $parent): bool
    {
        return match (true) {
            $parent === null => false,
            in_array($code, self::NOWHERE, true) => true,
            $code === 'parent_left' => ! $parent->isLeft(),
            default => $parent->record() !== null || $parent->isLeft(),
        };
    }

    /** @param  array<string, list<string>>  $used */
    private function basis(PlanVersion $plan, array $used, Stage $stage, string $code, ?string $field, ?string $value): ?string
    {
        if ($stage === Stage::Reading) {
            return self::text($plan, $this->load, fn ($l) => [$l->padShort, $l->scope]);
        }

        return self::text($plan, $this->load, function (LoadDefinition $l) use ($plan, $used, $stage, $code, $field, $value) {
            $fields = self::fields($l, $stage, $field);

            return [
                // A row that leaves the scope is excluded, whatever it failed for.
                $l->scope,
                array_map(fn (string $f) => [$l->rules[$f] ?? null, ($l->entity->fields[$f] ?? null)?->toArray()], $fields),
                self::codes($plan, $used, [...$fields, ''], in_array($code, self::OF_CODES, true) ? [(string) $field, $value] : null),
                $field === null || $stage === Stage::Matching
                    ? [$l->keyColumns, $l->normalisation, $l->space, $l->policy, array_map(fn ($r) => $r->identity(), $l->matches)]
                    : null,
                $stage === Stage::Parents ? $plan->normalisations() : null,
                $code === 'changed_by_others' ? $l->others : null,
            ];
        });
    }

    /** @return list<string> fields whose rules made the failure what it is */
    private static function fields(LoadDefinition $load, Stage $stage, ?string $named): array
    {
        $fields = $named === null ? [] : explode(', ', $named);
        if ($stage === Stage::Matching) {
            array_push($fields, ...array_merge([], ...array_map(fn ($r) => array_map(strval(...), array_keys($r->on)), $load->matches)));
        }
        if ($named === null && $stage === Stage::Writing) {
            // The target says no field: whatever the record is made of may be why.
            array_push($fields, ...array_map(strval(...), array_keys($load->rules)));
        }

        return array_values(array_unique($fields));
    }

    /**
     * @param  array<string, list<string>>  $used
     * @param  list<string>  $fields  '' for the scope
     * @param  array{string, string|null}|null  $only  the field whose code made the failure, and the old value
     * @return array<string, list<array<array-key, mixed>|null>> what the crosswalks they use say
     */
    private static function codes(PlanVersion $plan, array $used, array $fields, ?array $only): array
    {
        $says = [];
        foreach ($fields as $field) {
            foreach ($used[$field] ?? [] as $crosswalk) {
                $says[$field][] = $plan->code($crosswalk, $only !== null && $only[0] === $field ? $only[1] : null);
            }
        }

        return $says;
    }

    /** @param  array<string, list<string>>  $used */
    private static function part(PlanVersion $plan, array $used, int $load): ?string
    {
        $codes = array_unique(array_merge([], ...array_values($used)));
        sort($codes);

        return self::text($plan, $load, fn ($l) => [
            // What becomes of rows that are delivered no more changes no record, and what others changed is looked at when one is.
            array_diff_key($l->toArray(), ['gone' => '', 'others' => '']),
            array_map(fn (string $c) => $plan->code($c, null), $codes),
            array_filter($l->rules, fn (string $rule) => str_contains($rule, 'parent(')) === [] ? null : $plan->normalisations(),
        ]);
    }

    /** @param  \Closure(\Baggage\Core\Mapping\LoadDefinition): list<mixed>  $parts */
    private static function text(PlanVersion $plan, int $load, \Closure $parts): ?string
    {
        try {
            return (string) json_encode($parts($plan->load($load)), JSON_INVALID_UTF8_SUBSTITUTE);
        } catch (DefinitionError) {
            return null;
        }
    }
}
