<?php

namespace Baggage\Core\Loading;

/** Port: legacy keys that are known before their rows are worked on, so that orphans are told from parents that come late. */
interface KeyBook
{
    /** @return Portion|null null when all are known */
    public function next(int $most): ?Portion;

    /** @param  array<int, string>  $keys  row number → legacy key; all or nothing */
    public function put(Portion $portion, array $keys): void;
}
