<?php

namespace Baggage\Core\Loading;

/** A stretch of rows on its way into a target: nothing of it stands before it is kept, and then all of it does, with its receipt. */
interface Writing
{
    /**
     * A record the target refuses does not stop the others.
     *
     * @param  list<Order>  $orders
     * @return list<Answer> one for each order, in that order
     *
     * @throws TargetUnavailable
     */
    public function do(array $orders): array;

    /** @throws TargetUnavailable when it does not stand, or when that is not known */
    public function keep(): void;

    /** Nothing of it is to stand. */
    public function drop(): void;
}
