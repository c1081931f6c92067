<?php

namespace App\Plans;

use App\Models\Migration;

/** What became of a plan that was read. */
final readonly class PlanResult
{
    /** @param  list<string>  $kept  items that were changed on a screen alone and stay so, in words */
    public function __construct(public Migration $migration, public array $kept)
    {
    }
}
