<?php

namespace App\Ledger;

use App\Models\Load;
use App\Models\Pass;
use App\Models\PassLoad;

/** One load in one pass. */
final readonly class LoadRun
{
    public function __construct(public Pass $pass, public PassLoad $progress, public Load $load, public int $round)
    {
    }
}
