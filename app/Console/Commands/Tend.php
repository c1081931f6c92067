<?php

namespace App\Console\Commands;

use App\Console\Tending;
use Illuminate\Console\Command;

final class Tend extends Command
{
    protected $signature = 'baggage:tend';

    protected $description = 'Take up work that a killed worker left behind';

    public function handle(Tending $tending): int
    {
        foreach ($tending->all() as $told) {
            $this->line($told);
        }

        return 0;
    }
}
