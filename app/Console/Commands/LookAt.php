<?php

namespace App\Console\Commands;

use App\Looking\Looker;
use App\Looking\Looks;
use App\Support\Apart;
use Illuminate\Console\Command;

/** What a page starts to look into foreign bytes, which come by standard input as JSON; it is of no use by itself. */
final class LookAt extends Command
{
    protected $signature = 'baggage:look {who}';

    protected $hidden = true;

    public function handle(): int
    {
        $who = (string) $this->argument('who');
        if (! is_subclass_of($who, Looker::class)) {
            throw new \LogicException("$who looks at nothing.");
        }
        Apart::enter();
        $given = json_decode((string) stream_get_contents(STDIN), true, 512, JSON_THROW_ON_ERROR);
        fwrite(STDOUT, json_encode(
            Looks::done($who, $given),
            JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION | JSON_INVALID_UTF8_SUBSTITUTE
                | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES,
        ));
        Apart::leave();

        return 0;
    }
}
