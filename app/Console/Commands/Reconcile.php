<?php

namespace App\Console\Commands;

use App\Models\Migration;
use App\Models\ReckoningKind;
use App\Models\Round;
use App\Plans\Headless;
use App\Reckoning\Reckoned;
use App\Reckoning\Reckonings;
use App\Reconciling\Report;
use Illuminate\Console\Command;

final class Reconcile extends Command
{
    use WritesResult;

    protected $signature = 'baggage:reconcile {plan : the plan file} {--round=rehearsal-1 : name of the round} '
        .'{--compare= : reads records back and compares them field by field: all, or sample:N drawn at random} '
        .'{--seed= : the same sample is drawn again by it} '
        .'{--migration= : its number, where several have the name} {--json= : file for the result, - for standard output}';

    protected $description = 'Count a round again in source, ledger and target, with its control totals; nothing is loaded';

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
            $result = $report->of($round) + Reckoned::of(...$this->reckoned($round));
            $this->show($result);
            $code = Report::exitCode($result);

            return $this->deliver($result) ? max($code, Reckoned::holds($result) ? 0 : 1) : 2;
        });
    }

    /**
     * What cannot be counted any more is told as it was.
     *
     * @return array{\App\Models\Reckoning|null, \App\Models\Reckoning|null} totals and comparison
     *
     * @throws \DomainException
     */
    private function reckoned(Round $round): array
    {
        $compare = $this->compare();
        try {
            Reckonings::mayReckon($round);
        } catch (\DomainException $e) {
            if ($compare !== null) {
                throw $e;
            }

            return [Reckonings::newest($round, ReckoningKind::Totals), Reckonings::newest($round, ReckoningKind::Comparison)];
        }

        return Reckonings::now($round, true, $compare);
    }

    /**
     * @return array{sample?: int, seed?: int}|null null where nothing is compared
     *
     * @throws \DomainException
     */
    private function compare(): ?array
    {
        $how = $this->option('compare');
        $seed = $this->option('seed');
        if ($seed !== null && preg_match('/^\d{1,9}$/D', (string) $seed) !== 1) {
            throw new \DomainException('--seed= is a whole number of at most nine digits.');
        }

        return match (true) {
            $how === null => null,
            $how === 'all' => [],
            preg_match('/^sample:([1-9]\d{0,8})$/D', (string) $how, $m) === 1 => [
                'sample' => (int) $m[1], 'seed' => $seed === null ? random_int(1, 999_999_999) : (int) $seed,
            ],
            default => throw new \DomainException('--compare= is all, or sample:N with N the number of records.'),
        };
    }
}
