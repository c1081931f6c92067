<?php

namespace App\Console\Commands;

use App\Models\Migration;
use App\Plans\Headless;
use App\Reconciling\Report;
use Illuminate\Console\Command;

final class Reconcile extends Command
{
    use WritesResult;

    protected $signature = 'baggage:reconcile {plan : the plan file} {--round=rehearsal-1 : name of the round} '
        .'{--migration= : its number, where several have the name} {--json= : file for the result, - for standard output}';

    protected $description = 'Count a round again in source, ledger and target, without loading anything';

    public function handle(Headless $headless, Report $report): int
    {
        return $this->answer(function () use ($headless, $report) {
            $plan = $headless->read((string) $this->argument('plan'))->plan;
            $name = (string) $this->option('round');
            $round = Migration::named($plan['migration'], $this->which())
                ?->rounds()
                ->where('name', $name)
                ->first();
            if ($round === null) {
                throw new \DomainException("The migration \"$plan[migration]\" has no round \"$name\" here. Run the plan first.");
            }
            $result = $report->of($round);
            $this->show($result);

            return $this->deliver($result) ? Report::exitCode($result) : 2;
        });
    }
}
