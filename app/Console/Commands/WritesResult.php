<?php

namespace App\Console\Commands;

use App\Plans\PlanConflicts;
use App\Support\Unforeseen;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Ordering\OrderError;
use Baggage\Core\Plan\Conflict;
use Baggage\Core\Plan\Items;
use Baggage\Core\Plan\Mistake;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Rows\Outcome;
use Symfony\Component\Console\Exception\ExceptionInterface;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Output\OutputInterface;

/** How headless commands answer: a table for people, JSON for programs. */
trait WritesResult
{
    /** Also where the command itself is not understood, standard output holds JSON when it was asked for. */
    public function run(InputInterface $input, OutputInterface $output): int
    {
        try {
            return parent::run($input, $output);
        } catch (ExceptionInterface $e) {
            fwrite(STDERR, $e->getMessage().PHP_EOL);
            if ($input->hasParameterOption(['--json=-'], true) || $input->getParameterOption('--json', null, true) === '-') {
                $errors = ['baggage' => 1, 'errors' => [['message' => $e->getMessage()]]];
                $output->writeln((string) json_encode($errors), $output::OUTPUT_RAW);
            }

            return 2;
        }
    }

    /** @return int|null number of the migration, where it is said */
    private function which(): ?int
    {
        $which = $this->option('migration');

        return $which === null ? null : (int) $which;
    }

    /** A line for people, kept out of JSON on standard output. */
    private function say(string $line): void
    {
        if ($this->option('json') !== '-') {
            $this->line($line);
        }
    }

    /**
     * Answers with 2 where something stands in the way, foreseen or not; it is said on standard error, and where the result would be.
     *
     * @param  \Closure(): int  $do
     */
    private function answer(\Closure $do): int
    {
        try {
            return $do();
        } catch (PlanError $e) {
            return $this->unusable($e->getMessage(), array_map(fn (Mistake $m) => $m->toArray(), $e->mistakes));
        } catch (PlanConflicts $e) {
            return $this->unusable($e->getMessage()."\nDecide on the screen, or say --overwrite where the file is right.", array_map(
                fn (Conflict $c) => [
                    'file' => $e->planFile,
                    'field' => Items::shown($c->path),
                    'message' => 'changed in the file and on a screen',
                    'in_file' => $c->file,
                    'on_screen' => $c->screen,
                ],
                $e->conflicts,
            ));
        } catch (TargetUnavailable|OrderError|DefinitionError|\DomainException $e) {
            return $this->unusable($e->getMessage());
        } catch (\Throwable $e) {
            return $this->unusable(Unforeseen::said('Ended', $e));
        }
    }

    /** @param  list<array<string, mixed>>|null  $errors */
    private function unusable(string $message, ?array $errors = null): int
    {
        fwrite(STDERR, $message.PHP_EOL);
        if ($this->hasOption('json')) {
            $this->deliver(['baggage' => 1, 'errors' => $errors ?? [['message' => $message]]]);
        }

        return 2;
    }

    /** @param  array<string, mixed>  $result */
    private function show(array $result): void
    {
        if ($this->option('json') === '-') {
            return;
        }
        // What stands beside the sum is shown where there is any.
        $shown = array_values(array_filter(Outcome::cases(), fn (Outcome $o) => ! $o->isBeside()
            || array_sum(array_map(fn (array $l) => $l['outcomes'][$o->value], $result['loads'])) > 0));
        $rows = array_map(
            fn (array $l) => [
                $l['load'],
                ...array_map(number_format(...), [
                    $l['feed_rows'], ...array_map(fn (Outcome $o) => $l['outcomes'][$o->value], $shown), $l['unaccounted'],
                ]),
            ],
            $result['loads'],
        );
        $outcomes = array_map(fn (Outcome $o) => ucfirst($o->value), $shown);
        $this->table(['Load', 'Feed', ...$outcomes, 'Unaccounted'], $rows);
        $this->line(
            $result['proofs_hold']
                ? 'Every row is accounted for and every count proof holds.'
                : 'A count proof does not hold.',
        );
        $this->showReckoned($result);
        foreach ($this->told($result) as $line) {
            $this->line($line);
        }
        if ($result['error'] !== null) {
            $this->error($result['error']);
        }
    }

    /** @param  array<string, mixed>  $result */
    private function showReckoned(array $result): void
    {
        if (($result['totals'] ?? []) !== []) {
            $this->table(['Control total', 'Legacy', 'Target', 'Difference', 'Groups', 'Rows', ''], array_map(fn (array $t) => [
                $t['total'], $t['legacy'], $t['target'], $t['difference'] ?? ($t['legacy'] === $t['target'] ? '0' : 'differs'),
                number_format($t['groups_differ'] + $t['groups_do_not_foot']), number_format($t['rows_differ']),
                $t['error'] ?? ($t['holds'] ? 'holds' : 'DOES NOT HOLD'),
            ], $result['totals']));
        }
        $compared = $result['comparison'] ?? null;
        if ($compared !== null) {
            $rows = [];
            foreach ($compared['loads'] as $load) {
                $load['missing'] === 0 ?: $rows[] = [$load['load'], '', 'record gone', 'since', number_format($load['missing'])];
                foreach ($load['fields'] as $field => $found) {
                    foreach ($found['classes'] as $class => $when) {
                        foreach ($when as $happened => $n) {
                            $rows[] = [$load['load'], $field, $class, $happened, number_format($n)];
                        }
                    }
                }
            }
            $rows === [] ?: $this->table(['Load', 'Field', 'Different', 'When', 'Rows'], $rows);
            $this->line(number_format($compared['looked_at']).' of '.number_format($compared['records']).' records were compared'
                .($compared['sample'] === null ? '.' : ", drawn by seed $compared[seed]."));
        }
    }

    /**
     * @param  array<string, mixed>  $result
     * @return list<string>
     */
    private function told(array $result): array
    {
        $lines = array_map(
            fn (array $n) => "$n[name] was read since: the round works on take $n[worked_on], the newest is take "
                .(end($n['takes'])['number'] ?? '').'.',
            $result['newer_takes'],
        );
        foreach (
            [
                'not_asked' => 'rows were not asked for.',
                'references_waiting' => 'references wait for a record that is not there.',
                'stale_rows' => 'records at most were made before a rule, code or correction of theirs changed.',
            ] as $figure => $says
        ) {
            if ($result[$figure] > 0) {
                $lines[] = number_format($result[$figure])." $says";
            }
        }

        foreach ($result['kept_from_screen'] ?? [] as $item) {
            $lines[] = "Kept as a screen has it: $item.";
        }

        return [...$lines, ...$result['warnings']];
    }

    /** @param  array<string, mixed>  $result */
    private function deliver(array $result): bool
    {
        $to = $this->option('json');
        if ($to === null) {
            return true;
        }
        $json = json_encode(
            $result,
            JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE,
        ).PHP_EOL;
        if (@file_put_contents($to === '-' ? 'php://stdout' : $to, $json) === false) {
            fwrite(STDERR, "The result cannot be written to $to.".PHP_EOL);

            return false;
        }

        return true;
    }
}
