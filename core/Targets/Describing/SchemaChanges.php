<?php

namespace Baggage\Core\Targets\Describing;

use Baggage\Core\Targets\Conditions\Condition;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Schema;

/** What a newer description of a target says differently. */
final class SchemaChanges
{
    /** @return list<SchemaChange> what is added, removed or changed */
    public static function between(Schema $old, Schema $new): array
    {
        $changes = [];
        foreach ($old->entities + $new->entities as $name => $entity) {
            $was = $old->entities[$name] ?? null;
            $is = $new->entities[$name] ?? null;
            if ($was === null || $is === null) {
                $changes[] = $was === null
                    ? new SchemaChange($name, null, SchemaChange::ADDED, '', $is === null ? '' : self::fields($is))
                    : new SchemaChange($name, null, SchemaChange::REMOVED, self::fields($was), '');
            } else {
                array_push($changes, ...self::within($name, $was, $is));
            }
        }

        return $changes;
    }

    /** @return list<SchemaChange> */
    private static function within(string $name, Entity $was, Entity $is): array
    {
        $changes = [];
        foreach (array_keys($was->fields + $is->fields) as $field) {
            $a = isset($was->fields[$field]) ? self::say($was->fields[$field]) : '';
            $b = isset($is->fields[$field]) ? self::say($is->fields[$field]) : '';
            if ($a !== $b) {
                $what = $a === '' ? SchemaChange::ADDED : ($b === '' ? SchemaChange::REMOVED : SchemaChange::CHANGED);
                $changes[] = new SchemaChange($name, $field, $what, $a, $b);
            }
        }
        if (self::uniques($was) !== self::uniques($is)) {
            $unique = fn (Entity $e) => 'unique: '.self::uniques($e);
            $changes[] = new SchemaChange($name, null, SchemaChange::CHANGED, $unique($was), $unique($is));
        }
        [$a, $b] = [Condition::clauses($was), Condition::clauses($is)];
        if (array_diff($a, $b) !== array_diff($b, $a)) {
            $say = fn (array $checks) => 'checks: '.(implode('; ', $checks) ?: 'none');
            $changes[] = new SchemaChange($name, null, SchemaChange::CHANGED, $say($a), $say($b));
        }

        return $changes;
    }

    private static function fields(Entity $entity): string
    {
        return count($entity->fields).' fields: '.implode(', ', array_slice(array_keys($entity->fields), 0, 8))
            .(count($entity->fields) > 8 ? ' …' : '');
    }

    private static function uniques(Entity $entity): string
    {
        $uniques = array_map(fn ($u) => implode(' with ', $u), $entity->uniques);
        sort($uniques);

        return implode('; ', $uniques) ?: 'nothing';
    }

    private static function say(Field $field): string
    {
        $type = $field->type->toArray();

        if ($field->refers !== null) {
            // What it is kept as is the parent's affair.
            return implode(
                ', ',
                array_filter([
                    "refers to $field->refers",
                    $field->required ? 'required' : '',
                    $field->default === null ? '' : "default $field->default",
                ]),
            );
        }

        return implode(
            ', ',
            array_filter([
                $field->type->label(),
                isset($type['values']) ? implode('/', $type['values']) : '',
                isset($type['min']) && $type['min'] !== '-2147483648' ? "from $type[min] to $type[max]" : '',
                $field->required ? 'required' : '',
                $field->assigned ? 'given by the target' : '',
                $field->default === null ? '' : "default $field->default",
            ]),
        );
    }
}
