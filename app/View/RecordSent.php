<?php

namespace App\View;

use App\Ledger\LedgerReader;
use App\Ledger\Spaces;
use App\Models\Load;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Rows\Journey;

/** The record that a row would be sent as, with the target keys that the round already knows. */
final class RecordSent
{
    /**
     * @param  list<string|null>  $cells
     * @return array{journey: Journey|null, problem: string|null, record: array<string, array<string, mixed>>}
     */
    public static function of(Page $page, Load $load, int $row, array $cells): array
    {
        try {
            $mapper = $page->definitions->mapper($load);
            $journey = $mapper->map($row, $cells);
        } catch (DefinitionError $e) {
            return ['journey' => null, 'problem' => $e->getMessage(), 'record' => []];
        }
        $record = $parents = [];
        foreach ($load->entity->described()->writable() as $name => $field) {
            // Each field by itself, so that all that is wrong shows, not only what stops the row first.
            $value = isset($mapper->rules()[$name]) ? $mapper->field($name, $mapper->filled($cells)) : null;
            if ($value instanceof ParentKey) {
                $parents[$name] = [(string) $field->refers, $value];
            }
            $record[$name] = $value instanceof ParentKey
                ? []
                : [
                    'parent' => null,
                    'value' => $value,
                    'default' => $value === null && $field->default !== null,
                ];
        }

        $record = array_replace($record, self::parents($page, $parents));

        return ['journey' => $journey, 'problem' => null, 'record' => $record];
    }

    /**
     * @param  array<string, array{string, ParentKey}>  $parents  field → entity and key of the parent
     * @return array<string, array{parent: ParentKey, key: string, target: string|null, value: null}>
     */
    private static function parents(Page $page, array $parents): array
    {
        if ($parents === []) {
            return [];
        }
        $how = $page->definitions->normalisations();
        $spaces = $page->round === null ? null : Spaces::of($page->migration);
        $keys = $asked = [];
        foreach ($parents as $field => [$entity, $parent]) {
            foreach ($parent->chain() as $n => $one) {
                $keys[$field][$n] = LegacyKey::of($one->parts, $how[$entity][$one->space] ?? KeyNormalisation::Trim);
                $asked["$field $n"] = [(int) $spaces?->find($entity, $one->space), $keys[$field][$n]];
            }
        }
        $found = $page->round === null ? [] : (new LedgerReader($page->round))->targets(array_values($asked));
        $made = [];
        foreach ($parents as $field => [, $parent]) {
            foreach ($parent->chain() as $n => $one) {
                $target = $one->record ?? $found[implode(' ', $asked["$field $n"])] ?? null;
                $made[$field] = ['parent' => $one, 'key' => $one->record ?? $keys[$field][$n], 'target' => $target, 'value' => null];
                if ($target !== null) {
                    break;
                }
            }
        }

        return $made;
    }
}
