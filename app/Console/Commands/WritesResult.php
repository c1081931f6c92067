<?php

namespace App\Console\Commands;

use App\Support\Unforeseen;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Ordering\OrderError;
use Baggage\Core\Plan\PlanError;

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
        $rows = [];
        foreach ($result['loads'] as $l) {
            $done = array_diff_key($l['outcomes'], array_flip(['removed', 'waived']));
            $rows[] = [
                $l['load'],
                ...array_map(number_format(...), [$l['feed_rows'], ...array_values($done), $l['unaccounted']]),
            ];
        }
        $this->table(
            [
                'Load',
                'Feed',
                'Loaded',
                'Updated',
                'Unchanged',
                'Merged',
                'Excluded',
                'Held',
                'Rejected',
                'Pending',
                'Unaccounted',
            ],
            $rows,
        );
        $this->line(
            $result['proofs_hold']
                ? 'Every row is accounted for and every count proof holds.'
                : 'A count proof does not hold.',
        );
        if ($result['error'] !== null) {
            $this->error($result['error']);
        }
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
