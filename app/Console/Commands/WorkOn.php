<?php

namespace App\Console\Commands;

use App\Loading\PassRunner;
use App\Models\Pass;
use Illuminate\Console\Command;

final class WorkOn extends Command
{
    protected $signature = 'baggage:work-on {pass : number of a pass that is going on}';

    protected $description = 'Work on a pass beside others';

    public function handle(): int
    {
        $pass = Pass::query()->find((int) $this->argument('pass'));
        if ($pass === null) {
            $this->error('There is no such pass.');

            return 2;
        }
        PassRunner::of($pass)->work();

        return 0;
    }
}
