<?php

namespace App\Console\Commands;

use App\Support\Unforeseen;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Ordering\OrderError;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Rows\Outcome;

/** How headless commands answer: a table for people, JSON for programs. */
trait WritesResult
{
    /** A line for people, kept out of JSON on standard output. */
    private function say(string $line): void
    {
        if ($this->option('json') !== '-') {
            $this->line($line);
        }
    }

    /**
     * Answers with 2 and one line where something stands in the way, foreseen or not.
     *
     * @param  \Closure(): int  $do
     */
    private function answer(\Closure $do): int
    {
        try {
            return $do();
        } catch (PlanError|TargetUnavailable|OrderError|DefinitionError|\DomainException $e) {
            return $this->unusable($e->getMessage());
        } catch (\Throwable $e) {
            return $this->unusable(Unforeseen::said('Ended', $e));
        }
    }

    private function unusable(string $message): int
    {
        fwrite(STDERR, $message.PHP_EOL);

        return 2;
    }

    /** @param  array<string, mixed>  $result */
    private function show(array $result): void
    {
        if ($this->option('json') === '-') {
            return;
        }
        $rows = array_map(
            fn (array $l) => [
                $l['load'],
                ...array_map(number_format(...), [$l['feed_rows'], ...array_values($l['outcomes']), $l['unaccounted']]),
            ],
            $result['loads'],
        );
        $outcomes = array_map(fn (Outcome $o) => ucfirst($o->value), Outcome::cases());
        $this->table(['Load', 'Feed', ...$outcomes, 'Unaccounted'], $rows);
        $this->line(
            $result['proofs_hold']
                ? 'Every row is accounted for and every count proof holds.'
                : 'A count proof does not hold.',
        );
        foreach ($this->told($result) as $line) {
            $this->line($line);
        }
        if ($result['error'] !== null) {
            $this->error($result['error']);
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
            JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR,
        ).PHP_EOL;
        if (@file_put_contents($to === '-' ? 'php://stdout' : $to, $json) === false) {
            fwrite(STDERR, "The result cannot be written to $to.".PHP_EOL);

            return false;
        }

        return true;
    }
}
