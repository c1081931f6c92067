<?php

namespace App\Console\Commands;

use App\Freezing\Freezer;
use App\Models\Take;
use App\Support\Apart;
use Illuminate\Console\Command;

/** What a worker starts for each take; it is of no use by itself. */
final class FreezeOne extends Command
{
    protected $signature = 'baggage:freeze {take}';

    protected $hidden = true;

    public function handle(Freezer $freezer): int
    {
        Apart::enter();
        $freezer->freeze(Take::query()->findOrFail((int) $this->argument('take')));
        Apart::leave();

        return 0;
    }
}
