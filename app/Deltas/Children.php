<?php

namespace App\Deltas;

use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Mapping\LoadDefinition;

/**
 * Records of a load that refer to records of others, asked of the target: those are to be mapped anew whose parent's key leads elsewhere.
 */
final readonly class Children
{
    private const AT_ONCE = 10_000;

    /** Keys of a question to the target. */
    public const KEYS = 500;

    /** @param  list<string>  $deferred  fields that are set later, which are followed by their links */
    public function __construct(private TargetRecords $records, private LoadDefinition $load, private array $deferred)
    {
    }

    /**
     * Records that refer to others whose keys lead elsewhere; of a load that finds its records by key also those others.
     *
     * @param  \Closure(string, string): list<string>  $moved  entity and a target key → those after it that keys led to, in their order
     * @return \Generator<int, non-empty-list<string>> target keys of the load's entity, some thousand at a time
     *
     * @throws TargetUnavailable
     */
    public function ofMoved(\Closure $moved): \Generator
    {
        $own = $this->load->reads() ? $this->load->entity->name : null;
        foreach (array_unique([...array_values($this->fields()), ...array_filter([$own])]) as $entity) {
            for ($after = ''; ($keys = $moved($entity, $after)) !== []; $after = (string) end($keys)) {
                yield from $this->of($entity, $keys);
                if ($entity === $own) {
                    yield $keys;
                }
            }
        }
    }

    /**
     * @param  non-empty-list<string>  $keys  target keys of an entity's records
     * @return \Generator<int, non-empty-list<string>> target keys of records that refer to them
     *
     * @throws TargetUnavailable
     */
    private function of(string $entity, array $keys): \Generator
    {
        foreach (array_keys($this->fields(), $entity, true) as $field) {
            $last = null;
            while (($found = $this->records->referring($this->load->entity, $field, $keys, $last, self::AT_ONCE)) !== []) {
                yield $found;
                $last = (string) end($found);
            }
        }
    }

    /** @return array<string, string> field → entity it refers to */
    private function fields(): array
    {
        $fields = array_filter(array_map(fn ($field) => $field->refers, $this->load->entity->fields), is_string(...));

        return array_diff_key(array_intersect_key($fields, $this->load->rules), array_flip($this->deferred));
    }
}
