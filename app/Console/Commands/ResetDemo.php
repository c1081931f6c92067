<?php

namespace App\Console\Commands;

use Illuminate\Console\Command;
use Standins\HarbourOffice;

final class ResetDemo extends Command
{
    use WritesResult;

    protected $signature = 'baggage:demo-reset';

    protected $description = 'Bring the demo\'s new application back to its starting state; refused for any other database';

    public function handle(): int
    {
        return $this->answer(function () {
            HarbourOffice::reset(StandIn::link()->pdo());
            $this->line('The harbour office is as it was delivered. Begin a new round to load it.');

            return 0;
        });
    }
}
