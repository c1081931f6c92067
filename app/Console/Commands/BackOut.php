<?php

namespace App\Console\Commands;

use App\Ledger\BackOutBook;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\PassState;
use App\Models\Round;
use App\Plans\Headless;
use App\Reconciling\Report;
use Illuminate\Console\Command;

final class BackOut extends Command
{
    use WritesResult;

    protected $signature = 'baggage:back-out {plan : the plan file} {--round=rehearsal-1 : name of the round} '
        .'{--pass=1 : number of the pass; it and all later ones are taken back} '
        .'{--dry-run : say what would be taken back; nothing is written} '
        .'{--migration= : its number, where several have the name} {--workers=1 : processes that do it together} '
        .'{--json= : file for the result, - for standard output}';

    protected $description = 'Take back what a pass of a round and all later ones wrote into the target';

    public function handle(Headless $headless, Report $report): int
    {
        return $this->answer(function () use ($headless, $report) {
            $whole = fn (string $option, int $most) => filter_var($this->option($option), FILTER_VALIDATE_INT, [
                'options' => ['min_range' => 1, 'max_range' => $most],
            ]) ?: throw new \DomainException("--$option is a number from 1 to $most.");
            [$number, $workers] = [(int) $whole('pass', 10_000), (int) $whole('workers', 8)];
            $round = $this->round($headless);
            if ($this->option('dry-run')) {
                $result = ['dry_run' => $headless->wouldBackOut($round, $number)];
                foreach ($result['dry_run']['loads'] as $of) {
                    $this->say("$of[load]: $of[rows] rows; records to be removed: $of[remove], to be changed back: $of[change_back]");
                }

                return $this->deliver($result) ? 0 : 2;
            }
            $pass = $headless->backOut($round, $number, $workers);
            if ($pass->error !== null) {
                throw new \DomainException($pass->error);
            }

            return $this->done($report, $round->refresh(), $pass);
        });
    }

    private function round(Headless $headless): Round
    {
        $plan = $headless->read((string) $this->argument('plan'))->plan;
        $name = (string) $this->option('round');

        return Migration::named($plan['migration'], $this->which())?->rounds()->where('name', $name)->first()
            ?? throw new \DomainException("The migration \"$plan[migration]\" has no round \"$name\" here.");
    }

    /** @return int 0 where everything was taken back and the proofs hold, 1 where something was left */
    private function done(Report $report, Round $round, Pass $pass): int
    {
        $said = $report->of($round);
        $loads = [];
        foreach ($pass->passLoads()->with('ofLoad')->get() as $of) {
            $loads[] = ['load' => $of->ofLoad->name, 'rows' => $of->rows_done] + ($of->counts ?? []);
        }
        $result = ['back_out' => [
            'pass' => $pass->number,
            'passes' => $round->passes()->whereKey($pass->backs_out ?? [])->orderBy('number')->pluck('number')->all(),
            'loads' => $loads,
            'left' => array_map(fn ($l) => ['load_id' => $l->load_id, 'row' => $l->item, 'record' => $l->target_key, 'why' => $l->why],
                BackOutBook::leftBy($pass->id, 1_000)),
            'left_records' => $pass->left_records,
            'finished' => $pass->state === PassState::Finished,
        ]] + $said;
        $this->say("Pass $pass->number took back ".implode(', ', array_map(fn ($n) => "pass $n", $result['back_out']['passes'])).'; '
            ."records left: $pass->left_records.");

        return $this->deliver($result) ? (int) ($pass->left_records > 0 || ! $said['proofs_hold']) : 2;
    }
}
