<?php

namespace App\View;

use App\Loading\LedgerCrosswalk;
use App\Models\Load;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Loading\Journey;
use Baggage\Core\Mapping\DefinitionError;

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
            $journey = $page->definitions->mapper($load)->map($row, $cells);
        } catch (DefinitionError $e) {
            return ['journey' => null, 'problem' => $e->getMessage(), 'record' => []];
        }
        $record = [];
        $normalisations = $page->definitions->normalisations();
        $crosswalk = $page->round === null ? null : new LedgerCrosswalk($page->round->id, $page->definitions->entityIds(), $page->definitions->sourceIds());
        foreach ($load->entity->described()->writable() as $name => $field) {
            $parent = $journey->parents[$name] ?? null;
            if ($parent !== null) {
                $entity = (string) $field->refers;
                $key = LegacyKey::of($parent->parts, $normalisations[$entity][$parent->source] ?? KeyNormalisation::Trim);
                $record[$name] = ['parent' => $parent, 'key' => $key, 'target' => $crosswalk?->states($entity, $parent->source, [$key])[$key]->targetKey ?? null, 'value' => null];
            } elseif (array_key_exists($name, $journey->values)) {
                $record[$name] = ['parent' => null, 'value' => $journey->values[$name]];
            } elseif ($journey->isOpen()) {
                $record[$name] = ['parent' => null, 'value' => null, 'default' => $field->default !== null];
            }
        }

        return ['journey' => $journey, 'problem' => null, 'record' => $record];
    }
}
