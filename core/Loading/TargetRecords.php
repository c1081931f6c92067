<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Targets\Entity;

/** Port: looks at the records a target holds. */
interface TargetRecords
{
    /**
     * @return int|null null where it keeps no such records
     *
     * @throws TargetUnavailable
     */
    public function count(string $entity): ?int;

    /**
     * @return string|null the last target key in the order of keys; null where there is no record
     *
     * @throws TargetUnavailable
     */
    public function newest(Entity $entity): ?string;

    /**
     * A page of records in the order of their keys.
     *
     * @param  list<string>  $fields
     * @param  string|null  $key  the last key of the page before
     * @return array<string, array<string, string|null>> target key → the fields
     *
     * @throws TargetUnavailable
     */
    public function after(Entity $entity, array $fields, ?string $key, int $most): array;

    /**
     * A page of records that refer to others, in the order of their keys.
     *
     * @param  non-empty-list<string>  $keys  target keys of the others
     * @param  string|null  $key  the last key of the page before
     * @return list<string> target keys
     *
     * @throws TargetUnavailable
     */
    public function referring(Entity $entity, string $field, array $keys, ?string $key, int $most): array;

    /**
     * How many records refer to another.
     *
     * @param  string  $key  target key of the other
     *
     * @throws TargetUnavailable
     */
    public function referrers(Entity $entity, string $field, string $key): int;

    /**
     * @param  list<string>  $keys  target keys
     * @param  list<string>|null  $fields  null for the whole record
     * @return array<string, array<string, string|null>> target key → the record; one that is not there is left out
     *
     * @throws TargetUnavailable
     */
    public function byKeys(Entity $entity, array $keys, ?array $fields = null): array;
}
