<?php

namespace App\Console\Commands;

use App\Models\User;
use Illuminate\Console\Command;
use Illuminate\Support\Str;

final class FirstUser extends Command
{
    protected $signature = 'baggage:first-user {--email=lead@localhost}';

    protected $description = 'Make the administrator of the installation with a password of chance when there is no user yet';

    public function handle(): int
    {
        if (User::query()->exists()) {
            return 0;
        }
        $password = Str::password(16, true, true, false);
        User::query()->create([
            'name' => 'Administrator',
            'email' => $this->option('email'),
            'is_administrator' => true,
            'password' => $password,
        ]);
        $this->line("First login: {$this->option('email')}  $password  (shown once)");

        return 0;
    }
}
