<?php

namespace App\Console\Commands;

use App\Files\HeadlessFiles;
use Illuminate\Console\Command;

final class Annotate extends Command
{
    use WritesResult;

    protected $signature = 'baggage:annotate {plan : the plan file} {--round=rehearsal-1 : name of the round} '
        .'{--extract= : source and name of the extract, S/E} {--out= : the copy that is written} '
        .'{--migration= : its number, where several have the name} {--json= : file for the result, - for standard output}';

    protected $description = "Copy the client's own file with what became of each row";

    public function handle(HeadlessFiles $files): int
    {
        return $this->answer(function () use ($files) {
            $out = (string) $this->option('out') ?: throw new \DomainException('Say with --out which file is to be written.');
            $round = $files->round((string) $this->argument('plan'), (string) $this->option('round'), $this->which());
            $is = $files->annotate($round, (string) $this->option('extract'), $out);
            $this->say("A copy of $is[extract], take $is[take], written into $out.");

            return $this->deliver($is) ? 0 : 2;
        });
    }
}
