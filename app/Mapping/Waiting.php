<?php

namespace App\Mapping;

use App\Models\Load;

/** Whoever knows the rows that failed and may pass under a changed rule. */
interface Waiting
{
    /** @return int rejected rows that can be loaded again */
    public function ruleChanged(Load $load, ?string $field): int;
}
