<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Stage;
use Baggage\Core\Targets\Conditions\Condition;
use Baggage\Core\Targets\Conditions\Record;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;

/** What the target's checks want of the records a load makes, as far as it can be told without the target. */
final readonly class Wanted
{
    /** Code of a failure, as where the target refuses a record for its check. */
    private const CODE = 'check_failed';

    /**
     * @param  list<Condition>  $conditions
     * @param  array<string, string|null>  $absent  what fields hold that no rule fills
     * @param  array<string, string>  $unknown  fields that no rule fills and whose value only the target knows
     */
    private function __construct(private array $conditions, private array $absent, private array $unknown)
    {
    }

    public static function of(LoadDefinition $load): self
    {
        $filled = array_keys($load->rules);
        $conditions = array_filter(
            Condition::of($load->entity),
            fn (Condition $c) => $c->isRead() && array_intersect($c->fields, $filled) !== [],
        );
        // A record that may be there already keeps what no rule fills.
        $isNew = $load->policy === WritePolicy::Create && $load->matches === [];
        $absent = $unknown = [];
        foreach (array_diff_key($load->entity->fields, $load->rules) as $field) {
            if ($isNew && ! $field->assigned) {
                $absent[$field->name] = self::default($field);
            } else {
                $unknown[$field->name] = 'unknown';
            }
        }

        return new self(array_values($conditions), $absent, $unknown);
    }

    /**
     * Those that look at one field alone.
     *
     * @return self for a rule that is tried by itself
     */
    public static function alone(Entity $entity, string $field): self
    {
        $of = fn (Condition $c) => $c->isRead() && $c->fields === [$field];

        return new self(array_values(array_filter($entity->conditionsOn($field), $of)), [], []);
    }

    public function isNothing(): bool
    {
        return $this->conditions === [];
    }

    /**
     * @param  array<string, string|ParentKey|Cause|null>  $made  by field, as rules make them
     * @return list<Cause> a cause for each condition that does not hold
     */
    public function failing(array $made): array
    {
        $values = $this->absent;
        $unknown = $this->unknown;
        foreach ($made as $field => $value) {
            if ($value instanceof ParentKey || $value instanceof Cause) {
                $unknown[$field] = $value instanceof ParentKey ? 'filled' : 'unknown';
            } else {
                $values[$field] = $value;
            }
        }
        $record = new Record($values, $unknown);
        $failing = [];
        foreach ($this->conditions as $condition) {
            if ($condition->holds($record) === false) {
                $failing[] = self::cause($condition, $values);
            }
        }

        return $failing;
    }

    /** @param  array<string, string|null>  $values */
    private static function cause(Condition $condition, array $values): Cause
    {
        $value = implode(', ', array_map(fn (string $f) => $values[$f] ?? '', $condition->fields));

        return new Cause(
            Stage::Writing,
            self::CODE,
            implode(', ', $condition->fields),
            $value,
            "The target takes it only where {$condition->words()}",
        );
    }

    private static function default(Field $field): ?string
    {
        $value = $field->default === null ? null : $field->type->accept($field->default);

        return is_string($value) ? $value : null;
    }
}
