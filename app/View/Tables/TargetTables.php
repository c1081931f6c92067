<?php

namespace App\View\Tables;

use App\View\Page;
use Baggage\Core\Targets\Conditions\Condition;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Schema;
use Illuminate\Http\Request;

/** Tables of Target. */
final class TargetTables
{
    /**
     * @param  array<string, int|null>  $records  entity → records as counted last
     * @param  array<string, int>  $before  entity → records before the round
     */
    public static function entities(Request $request, Page $page, Schema $schema, array $records, array $before): Table
    {
        $loads = $page->all()->groupBy('entity')->map(fn ($of) => $of->pluck('name')->implode(', '))->all();

        return Table::of($request, 'entities', [
            Column::text('entity', 'Entity', fn (Entity $e) => $e->label()),
            Column::number('now', 'Records', fn (Entity $e) => $records[$e->name] ?? null),
            Column::number('before', 'Before the round', fn (Entity $e) => $before[$e->name] ?? null),
            Column::number('fields', 'Fields', fn (Entity $e) => count($e->fields)),
            Column::number('required', 'Required', fn (Entity $e) => count(array_filter($e->fields, fn (Field $f) => $f->required))),
            Column::text('refers', 'Refers to', fn (Entity $e) => implode(', ', array_map(
                fn (Field $f) => $f->name === $f->refers ? $f->name : "$f->refers ($f->name)",
                $e->references(),
            ))),
            Column::text('unique', 'Unique', fn (Entity $e) => implode('; ', array_map(fn ($u) => implode(' with ', $u), $e->uniques))),
            Column::text('loads', 'Loads', fn (Entity $e) => $loads[$e->name] ?? ''),
        ], array_values($schema->entities), 100);
    }

    public static function fields(Request $request, Entity $entity): Table
    {
        return Table::of($request, 'fields', [
            Column::text('field', 'Field', fn (Field $f) => $f->name),
            Column::text('type', 'Type', fn (Field $f) => $f->type->label()),
            Column::text('filled', 'Must be filled', fn (Field $f) => self::filled($f)),
            Column::text('refers', 'Refers to', fn (Field $f) => $f->refers),
            Column::text('unique', 'Unique', fn (Field $f) => $entity->uniqueWords($f->name)),
            Column::text('values', 'Allowed values, default', fn (Field $f) => self::values($entity, $f)),
        ], array_values($entity->fields), 200);
    }

    public static function filled(Field $field): string
    {
        return $field->assigned ? 'given by the target' : ($field->required ? 'required' : '');
    }

    private static function values(Entity $entity, Field $field): string
    {
        $allowed = implode('; ', array_filter([
            implode(', ', $field->type->toArray()['values'] ?? []),
            ...array_map(fn (Condition $c) => $c->wordsBeside($field->name), $entity->conditionsOn($field->name)),
        ]));

        return trim($allowed.($field->default === null ? '' : " default $field->default").($field->note === null ? '' : " $field->note"));
    }
}
