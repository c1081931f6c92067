<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Targets\Entity;

/** Port: writes records into a target. It gets orders and gives answers; what they mean for a row is not its affair. */
interface Target
{
    /**
     * Begins a stretch. What was begun before and not kept is dropped.
     *
     * A stretch is kept once: keeping another of the same name is refused.
     *
     * @param  Mark  $mark  left in the target with the first records of a lane
     *
     * @throws TargetUnavailable when it cannot be reached
     */
    public function begin(Entity $entity, Stretch $stretch, Mark $mark): Writing;

    /**
     * Its answers for the stretch of that name, if it ever kept one.
     *
     * @throws TargetUnavailable also when what it kept cannot be read
     */
    public function recall(Stretch $stretch): ?Receipt;

    /**
     * @return list<Mark> of all lanes that wrote here, the first one first
     *
     * @throws TargetUnavailable
     */
    public function marks(): array;

    /**
     * Sets a reference of records that are there already. Setting one twice changes nothing.
     *
     * @param  list<array{string, string|null}>  $pairs  target key of the record, target key it refers to; null for none
     *
     * @throws TargetUnavailable
     */
    public function setReference(Entity $entity, string $field, array $pairs): void;

    /**
     * Nothing of a lane stands here any more.
     *
     * @throws TargetUnavailable
     */
    public function unmark(string $installation, int $lane): void;

    /**
     * A finished pass needs its receipts no longer.
     *
     * @throws TargetUnavailable
     */
    public function forget(string $installation, int $pass): void;
}
