<?php

namespace App\Console\Commands;

use App\Files\HeadlessFiles;
use Illuminate\Console\Command;

final class WriteRejects extends Command
{
    use WritesResult;

    protected $signature = 'baggage:rejects {plan : the plan file} {--round=rehearsal-1 : name of the round} '
        .'{--load= : only rows of this load} {--out= : the file that is written, .xlsx or .csv} '
        .'{--migration= : its number, where several have the name} {--json= : file for the result, - for standard output}';

    protected $description = 'Write the rejected rows of a round into a file for the client';

    public function handle(HeadlessFiles $files): int
    {
        return $this->answer(function () use ($files) {
            $out = (string) $this->option('out') ?: throw new \DomainException('Say with --out which file is to be written.');
            $round = $files->round((string) $this->argument('plan'), (string) $this->option('round'), $this->which());
            $is = $files->write($round, $this->option('load'), $out);
            $this->say(number_format($is['rows'])." rows written into $out, with the code $is[file].");

            return $this->deliver($is) ? 0 : 2;
        });
    }
}
