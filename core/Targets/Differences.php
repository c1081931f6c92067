<?php

namespace Baggage\Core\Targets;

use Baggage\Core\Targets\Conditions\Condition;
use Baggage\Core\Targets\Types\IntegerType;
use Baggage\Core\Targets\Types\TextType;

/** How a target is other than described, as far as loads feel it: what stops every row, and what may refuse some. */
final readonly class Differences
{
    /**
     * @param  list<string>  $stopping  no row could be written
     * @param  list<string>  $telling  what the target may refuse although the description allows it
     */
    private function __construct(public array $stopping, public array $telling)
    {
    }

    /**
     * @param  Entity|null  $is  as the target has it; null where it has no such table
     * @param  array<string, mixed>  $filled  names of fields that loads fill, as keys
     * @param  bool  $creates  whether any load makes new records
     */
    public static function between(Entity $described, ?Entity $is, array $filled, bool $creates): self
    {
        if ($is === null) {
            return new self(["It has no table $described->name with a key of one column."], []);
        }
        $name = $described->name;
        $stopping = $is->key === $described->key ? [] : ["The key of $name is $is->key, not $described->key."];
        $telling = [];
        foreach (array_intersect_key($described->fields, $filled) as $field) {
            $now = $is->fields[$field->name] ?? null;
            if ($now === null || $now->assigned) {
                $stopping[] = $now === null ? "$name has no $field->name." : "The target gives $name.$field->name its value itself.";
            } else {
                array_push($telling, ...self::ofField($name, $field, $now));
            }
        }
        foreach ($creates ? $is->writable() : [] as $field) {
            $isSaid = $described->fields[$field->name]->required ?? false;
            if ($field->required && ! $isSaid && $field->default === null && ! isset($filled[$field->name])) {
                $stopping[] = "$name requires $field->name, and no rule fills it.";
            }
        }
        foreach ($is->uniques as $fields) {
            if (! in_array($fields, $described->uniques, true) && array_diff($fields, array_keys($filled)) === []) {
                $telling[] = "$name takes each ".implode(' with ', $fields).' once, which the description does not say.';
            }
        }
        foreach (array_diff(Condition::clauses($is), Condition::clauses($described)) as $check) {
            $telling[] = "$name has the check $check, which the description does not say.";
        }

        return new self($stopping, $telling);
    }

    private static function label(FieldType $type): string
    {
        return $type->label().($type instanceof IntegerType ? " from $type->min to $type->max" : '');
    }

    /** @return list<string> */
    private static function ofField(string $entity, Field $described, Field $is): array
    {
        $told = [];
        [$of, $now] = [$described->type, $is->type];
        if ($of instanceof TextType && $now instanceof TextType && $now->length < $of->length) {
            $told[] = "$entity.$described->name takes $now->length characters, not $of->length.";
        } elseif ($now::class !== $of::class || ($of->toArray() !== $now->toArray() && ! $of instanceof TextType)) {
            $told[] = "$entity.$described->name is ".self::label($now).', not '.self::label($of).'.';
        }
        if ($is->required && ! $described->required && $is->default === null) {
            $told[] = "$entity.$described->name is required, which the description does not say.";
        }
        if ($is->refers !== $described->refers && $is->refers !== null) {
            $told[] = "$entity.$described->name refers to $is->refers, which the description does not say.";
        }

        return $told;
    }
}
