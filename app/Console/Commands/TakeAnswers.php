<?php

namespace App\Console\Commands;

use App\Files\HeadlessFiles;
use Illuminate\Console\Command;

final class TakeAnswers extends Command
{
    use WritesResult;

    protected $signature = 'baggage:answers {plan : the plan file} {file : the file that came back} '
        .'{--round=rehearsal-1 : name of the round} {--from= : who sent it} '
        .'{--accept : what was changed becomes corrections, but for conflicts} '
        .'{--migration= : its number, where several have the name} {--json= : file for the result, - for standard output}';

    protected $description = 'Take in a file of rejected rows that came back from the client';

    public function handle(HeadlessFiles $files): int
    {
        return $this->answer(function () use ($files) {
            $round = $files->round((string) $this->argument('plan'), (string) $this->option('round'), $this->which());
            $is = $files->answers($round, (string) $this->argument('file'), $this->option('from'), (bool) $this->option('accept'));
            $found = $is['found'];
            $this->say("$found[rows] rows read, $found[change] cells changed, $found[conflict] in conflict, "
                ."$found[program] changed by the program it was saved with.");
            foreach ($is['taken_in'] as $of) {
                $this->say("$of[load]: $of[told]");
            }

            return $this->deliver($is) ? 0 : 2;
        });
    }
}
