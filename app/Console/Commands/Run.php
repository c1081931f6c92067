<?php

namespace App\Console\Commands;

use App\Deltas\Delta;
use App\Models\DryRun;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\Take;
use App\Models\TakeState;
use App\Plans\Headless;
use App\Profiling\StudyMigration;
use App\Reconciling\Report;
use App\Support\Amount;
use Illuminate\Console\Command;

final class Run extends Command
{
    use WritesResult;

    protected $signature = 'baggage:run {plan : the plan file} {--round=rehearsal-1 : name of the round} '
        .'{--target= : name of the connection} {--set=* : a parameter of the round, as name=value} '
        .'{--without=* : a load that is left out, by name} {--keep-takes : newer takes are meant to be left aside} '
        .'{--overwrite : the plan is right where a screen says otherwise} {--migration= : its number, where several have the name} '
        .'{--dry-run : say what the pass would do; nothing is written} '
        .'{--delta : take the round to newer takes, rules, codes and decisions} {--full : of a delta, map all rows anew} '
        .'{--confirm-remove= : of a delta, so many records may be removed} '
        .'{--match-against= : an earlier round, whose key crosswalk a round that begins takes over} '
        .'{--workers=1 : processes that load together} '
        .'{--json= : file for the result, - for standard output}';

    protected $description = 'Run a plan: read its files, load them, and account for every row';

    public function handle(Headless $headless, Report $report): int
    {
        return $this->answer(function () use ($headless, $report) {
            $workers = $this->workers();
            $plan = $headless->read((string) $this->argument('plan'));
            $read = $headless->apply($plan, (bool) $this->option('overwrite'), $this->which());
            $migration = $read->migration;
            $asked = [(string) $this->option('round'), $this->option('target'), $this->parameters()];
            $headless->isMeant($migration, ...$asked);
            $this->freeze($headless, $migration, $plan->name);
            $headless->checkColumns($migration, $plan);
            $delta = $this->delta();
            if ($this->option('dry-run')) {
                $without = $this->without();

                return $this->dry($headless->dry($migration, ...$asked, without: $without, delta: $delta, against: $this->against()));
            }
            $delta === null ? null : $this->confirmed($headless->wouldRemove($migration, $asked[0], $this->without(), $delta));
            $round = $headless->run(
                $migration,
                ...$asked,
                without: $this->without(),
                workers: $workers,
                delta: $delta,
                against: $this->against(),
            );
            $result = $report->of($round) + ['kept_from_screen' => $read->kept]
                + ($delta === null ? [] : ['delta' => $report->delta($round), 'changed_by_others' => $report->changedByOthers($round)]);
            $this->show($result);

            return $this->deliver($result) ? Report::exitCode($result, (bool) $this->option('keep-takes')) : 2;
        });
    }

    private function freeze(Headless $headless, Migration $migration, string $plan): void
    {
        $frozen = 0;
        $headless->freeze($migration, $plan, function (Extract $e, Take $t) use (&$frozen) {
            $frozen++;
            $this->say($t->state === TakeState::Failed
                ? "Not frozen, and nothing reads it: $e->name: $t->error"
                : "Frozen $e->name: ".number_format((int) $t->rows).' rows');
        });
        if ($frozen > 0) {
            // Keys and references are for people to look at: a worker finds them while this goes on.
            StudyMigration::dispatch($migration->id);
        }
    }

    /** @return int 0 where every row would pass */
    private function dry(DryRun $run): int
    {
        if ($run->found === null) {
            throw new \DomainException((string) $run->error);
        }
        $names = $run->migration()->firstOrFail()->loads()->pluck('name', 'id');
        $open = 0;
        $rows = [];
        foreach ($run->found['rows'] as $of) {
            $rows[] = ['load' => $names[$of['load_id']] ?? '', 'was' => $of['was'], 'would_be' => $of['outcome'], 'rows' => (int) $of['n']];
            $open += in_array($of['outcome'], ['rejected', 'held', 'pending'], true) ? (int) $of['n'] : 0;
            $this->say(end($rows)['load'].": {$of['n']} would be $of[outcome]".($of['was'] === null ? '' : ", now $of[was]"));
        }
        $causes = array_map(fn (array $c) => [
            'load' => $names[$c['load_id']] ?? '', 'would_be' => $c['outcome'], 'code' => $c['code'], 'field' => $c['field'],
            'message' => $c['message'], 'rows' => (int) $c['n'], 'values' => (int) $c['kinds'],
        ], $run->found['causes']);
        $result = ['dry_run' => [
            'tried' => $run->found['tried'], 'as_they_are' => $run->found['same'], 'rows' => $rows, 'causes' => $causes,
            'unforeseen' => $run->found['unforeseen'], 'not_tried' => $run->found['failed'],
        ]];
        $delta = $run->found['delta'] ?? null;
        if ($delta !== null) {
            $loads = array_map($this->ofDelta(...), $delta);
            $result['dry_run']['loads'] = $loads;
            // What would be as it is needs nobody: there it is all that was to be done.
            $open = $open > 0 || $rows !== [] ? 1 : 0;

            return $this->deliver($result) ? (int) ($open + count($run->found['failed']) > 0) : 2;
        }

        return $this->deliver($result) ? (int) ($open + $run->found['same'] + count($run->found['failed']) > 0) : 2;
    }

    /**
     * @param  array<string, mixed>  $of  what a delta would do of one load
     * @return array<string, mixed> as it is delivered
     */
    private function ofDelta(array $of): array
    {
        $n = fn (string $what) => (int) ($of[$what] ?? 0);
        $this->say("$of[load]: {$n('added')} added, {$n('changed')} changed, {$n('gone')} gone, {$n('untouched')} untouched; "
            ."{$n('records_made')} records made, {$n('records_changed')} changed"
            .($n('would_remove') > 0 ? ", {$n('would_remove')} removed unless something refers to them" : ''));

        return ['fields' => (object) $of['fields']] + array_diff_key($of, ['id' => 0]);
    }

    /** @return list<string> */
    private function without(): array
    {
        return array_values(array_map(strval(...), (array) $this->option('without')));
    }

    /** @throws \DomainException unless the number of records a delta would remove was said */
    private function confirmed(int $n): void
    {
        $said = $this->option('confirm-remove');
        if ($n > 0 && (string) $n !== $said) {
            throw new \DomainException(Amount::of($n, 'record')." of rows delivered no more would be removed: write --confirm-remove=$n."
                .($said === null ? '' : " It says $said."));
        }
    }

    private function delta(): ?Delta
    {
        if ($this->option('full') && ! $this->option('delta')) {
            throw new \DomainException('--full says how a delta goes: write --delta --full.');
        }

        return $this->option('delta') ? new Delta((bool) $this->option('full'), (bool) $this->option('keep-takes')) : null;
    }

    private function against(): ?string
    {
        return $this->option('match-against') === null ? null : (string) $this->option('match-against');
    }

    private function workers(): int
    {
        $workers = filter_var($this->option('workers'), FILTER_VALIDATE_INT, ['options' => ['min_range' => 1, 'max_range' => 8]]);

        return $workers === false ? throw new \DomainException('--workers is a number from 1 to 8.') : $workers;
    }

    /** @return array<string, string> */
    private function parameters(): array
    {
        $parameters = [];
        foreach ((array) $this->option('set') as $set) {
            [$name, $value] = array_pad(explode('=', (string) $set, 2), 2, null);
            $parameters[(string) $name] = $value ?? throw new \DomainException("--set=$set: write --set=name=value.");
        }

        return $parameters;
    }
}
