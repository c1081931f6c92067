<?php

namespace App\Targets;

use App\Looking\Looker;
use App\Models\Target;
use Baggage\Core\Loading\Mark;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Targets\Entity;

/** Asks a target what a page wants to know of it. */
final class TargetLook implements Looker
{
    private const RECORDS = 5;

    public static function look(array $given): mixed
    {
        $target = (new Target)->setRawAttributes($given['target']);
        $ports = Ports::of($target);
        try {
            return match (Question::from($given['question'])) {
                Question::Schema => self::schema($ports),
                Question::Standing => [
                    'tables' => $ports->tables(),
                    'marks' => $given['marks'] ? array_map(fn (Mark $m) => get_object_vars($m), $ports->target->marks()) : [],
                ],
                Question::Ready => self::schema($ports) + [
                    'missing' => $ports->missingRights(array_map(Entity::fromArray(...), $given['entities'])),
                ],
                Question::Records => self::records($ports, Entity::fromArray($given['entity'])),
                Question::Family => self::family($ports, $given),
                Question::Make => TableMaker::run(new TargetLink($target), $given['statements']),
            };
        } catch (TargetUnavailable|\DomainException $e) {
            throw ReadingError::broken($e->getMessage());
        }
    }

    /** @return array{entities: list<array<string, mixed>>, others: array<string, string>} */
    private static function schema(Ports $ports): array
    {
        $schema = $ports->schema();

        return ['entities' => $schema->toArray(), 'others' => $schema->others];
    }

    /**
     * @param  array<string, mixed>  $given  entity, key, children and most
     * @return array{record: array<string, string|null>|null, children: list<array<string, mixed>>}
     */
    private static function family(Ports $ports, array $given): array
    {
        $entity = Entity::fromArray($given['entity']);
        $children = [];
        foreach ($given['children'] as [$of, $field]) {
            $child = Entity::fromArray($of);
            $records = $ports->records->referrers($child, $field, $given['key']);
            if ($records > 0) {
                $children[] = [
                    'entity' => $child->name, 'field' => $field, 'records' => $records,
                    'keys' => $ports->records->referring($child, $field, [$given['key']], null, $given['most']),
                ];
            }
        }
        $record = $ports->records->byKeys($entity, [$given['key']])[$given['key']] ?? null;
        $text = fn (mixed $v) => $v === null ? null : (string) $v;

        return ['record' => $record === null ? null : array_map($text, $record), 'children' => $children];
    }

    /** @return list<array<string, string|null>> */
    private static function records(Ports $ports, Entity $entity): array
    {
        return array_values($ports->records->after($entity, array_keys($entity->fields), null, self::RECORDS));
    }
}
