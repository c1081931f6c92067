<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Targets\Conditions\Condition;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;

/** A field without a rule, and what the target says of it: worked out once for all columns. */
final readonly class Wish
{
    /**
     * @param  list<Condition>  $conditions  that look at it alone and are understood
     * @param  list<string>|null  $allowed  values it lists
     * @param  list<string>  $words  of its name
     */
    private function __construct(
        public Entity $entity,
        public Field $field,
        public array $conditions,
        public ?array $allowed,
        public bool $isUnique,
        public array $words,
    ) {
    }

    public static function of(Entity $entity, Field $field): self
    {
        $alone = fn (Condition $c) => $c->isRead() && $c->fields === [$field->name];

        return new self(
            $entity,
            $field,
            array_values(array_filter($entity->conditionsOn($field->name), $alone)),
            $entity->allowed($field->name),
            $entity->isUnique($field->name),
            Words::in($field->name),
        );
    }
}
