<?php

namespace App\Mapping;

use App\Models\Migration;

/** Whoever knows the rows that failed and may pass under a changed definition. */
interface Waiting
{
    /** Rules, codes or settings of loads are not as they were: what is due is worked out anew, soon. */
    public function changed(Migration $migration): void;
}
