<?php

namespace App\Console\Commands;

use App\Freezing\Look;
use Illuminate\Console\Command;

/** What a page starts to look into foreign bytes, which come by standard input as JSON; it is of no use by itself. */
final class LookAt extends Command
{
    protected $signature = 'baggage:look {what}';

    protected $hidden = true;

    public function handle(): int
    {
        $given = json_decode((string) stream_get_contents(STDIN), true, 512, JSON_THROW_ON_ERROR);
        fwrite(STDOUT, json_encode(
            Look::done((string) $this->argument('what'), $given),
            JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES,
        ));

        return 0;
    }
}
