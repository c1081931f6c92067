<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Targets\Entity;

/** Port: writes records into a target. It gets orders and gives answers; what they mean for a row is not its affair. */
interface Target
{
    /**
     * Does all orders in one transaction, and lays its answers beside them in the same one.
     *
     * A record it refuses does not stop the others. Written twice for one stretch is written once.
     *
     * @param  list<Order>  $orders
     * @param  Mark  $mark  left in the target with the first records of a lane
     * @return list<Answer> one for each order, in that order
     *
     * @throws TargetUnavailable when it cannot be reached; nothing is written then
     */
    public function write(Entity $entity, array $orders, Stretch $stretch, Mark $mark): array;

    /**
     * Its answers for the stretch that begins there, if it ever wrote one.
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
     * @param  list<array{string, string}>  $pairs  target key of the record, target key it refers to
     *
     * @throws TargetUnavailable
     */
    public function setReference(Entity $entity, string $field, array $pairs): void;

    /**
     * A finished pass needs its receipts no longer.
     *
     * @throws TargetUnavailable
     */
    public function forget(string $installation, int $pass): void;
}
