<?php

namespace App\Console\Commands;

use App\Queueing\Kind;
use Illuminate\Console\Command;

final class Workers extends Command
{
    protected $signature = 'baggage:workers';

    protected $description = 'Print the queue of each kind of work and how many workers it has';

    public function handle(): int
    {
        foreach (Kind::cases() as $kind) {
            $this->line("$kind->value {$kind->workers()}");
        }

        return 0;
    }
}
