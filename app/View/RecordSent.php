<?php

namespace App\View;

use App\Ledger\LedgerCrosswalk;
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
        $record = [];
        foreach ($load->entity->described()->writable() as $name => $field) {
            // Each field by itself, so that all that is wrong shows, not only what stops the row first.
            $value = isset($mapper->rules()[$name]) ? $mapper->field($name, $mapper->filled($cells)) : null;
            $record[$name] = $value instanceof ParentKey
                ? self::parent($page, (string) $field->refers, $value)
                : [
                    'parent' => null,
                    'value' => $value,
                    'default' => $value === null && $field->default !== null,
                ];
        }

        return ['journey' => $journey, 'problem' => null, 'record' => $record];
    }

    /** @return array{parent: ParentKey, key: string, target: string|null, value: null} */
    private static function parent(Page $page, string $entity, ParentKey $parent): array
    {
        $how = $page->definitions->normalisations()[$entity][$parent->space] ?? KeyNormalisation::Trim;
        $key = LegacyKey::of($parent->parts, $how);
        $crosswalk = $page->round === null
            ? null
            : new LedgerCrosswalk(new LedgerReader($page->round), Spaces::of($page->migration));

        return [
            'parent' => $parent,
            'key' => $key,
            'target' => $crosswalk?->states($entity, $parent->space, [$key])[$key]->targetKey ?? null,
            'value' => null,
        ];
    }
}
