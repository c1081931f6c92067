<?php

namespace App\Console\Commands;

use App\Models\User;
use App\People\Accounts;
use Illuminate\Console\Command;

final class Link extends Command
{
    protected $signature = 'baggage:link {email} {--without-second-factor : for one whose device and codes are lost}';

    protected $description = 'Give a link that sets another password, where no administrator can log in any more';

    public function handle(): int
    {
        $user = User::addressed((string) $this->argument('email'))->first();
        if ($user === null) {
            $this->error('There is no account of this address.');

            return 2;
        }
        try {
            $link = Accounts::reset($user);
        } catch (\DomainException $e) {
            $this->error($e->getMessage());

            return 2;
        }
        $this->option('without-second-factor') && Accounts::withoutSecondFactor($user->refresh());
        $this->line(url($link));

        return 0;
    }
}
