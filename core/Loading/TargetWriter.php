<?php

namespace Baggage\Core\Loading;

use Baggage\Core\Rows\Journey;
use Baggage\Core\Targets\Entity;

/** Port: writes records into the target. */
interface TargetWriter
{
    /**
     * Writes the open journeys in one transaction and lays the receipt beside them in the same one.
     *
     * An open journey without a target key is created; one with a target key is the target's own record, changed
     * where it differs if $mayUpdate. Each ends settled, or rejected when the target refuses it alone.
     *
     * @param  list<Journey>  $journeys
     * @param  \Closure(): string  $receipt  makes the receipt once all journeys have their outcome
     *
     * @throws TargetUnavailable when the target cannot be reached; nothing is written then
     */
    public function write(Entity $entity, array $journeys, bool $mayUpdate, BatchId $batch, \Closure $receipt): void;
}
