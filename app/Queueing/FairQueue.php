<?php

namespace App\Queueing;

use App\Support\NamedLock;
use Illuminate\Queue\DatabaseQueue;
use Illuminate\Queue\Jobs\DatabaseJobRecord;

/**
 * The queue in the database, in turn by migration: the next job is of the migration that has the fewest workers now, of these of the
 * one that waits longest for its turn, and of its jobs the oldest.
 */
final class FairQueue extends DatabaseQueue
{
    /** Seconds a worker waits for another that takes a job. */
    private const WAIT = 2;

    public function push($job, $data = '', $queue = null)
    {
        return parent::push($job, $data, $queue ?? self::kindOf($job));
    }

    public function later($delay, $job, $data = '', $queue = null)
    {
        return parent::later($delay, $job, $data, $queue ?? self::kindOf($job));
    }

    private static function kindOf(mixed $job): ?string
    {
        return $job instanceof Job ? $job->kind()->value : null;
    }

    /** @return array<string, mixed> */
    protected function createPayloadArray($job, $queue, $data = '')
    {
        return ['migration' => $job instanceof Job ? $job->migration() : null] + parent::createPayloadArray($job, $queue, $data);
    }

    /** @return array<string, mixed> */
    protected function buildDatabaseRecord($queue, $payload, $availableAt, $attempts = 0)
    {
        $said = json_decode($payload, true);

        return [
            'migration_id' => (int) ($said['migration'] ?? 0),
            'what' => md5($said['data']['command'] ?? $payload),
        ] + parent::buildDatabaseRecord($queue, $payload, $availableAt, $attempts);
    }

    public function pop($queue = null)
    {
        $queue = $this->getQueue($queue);
        if ((new Turns($this->database, $queue))->next() === []) {
            return null;
        }

        // One at a time: two that look at once would both give one migration its last worker.
        return NamedLock::of("turns:$queue")->during(fn () => parent::pop($queue), self::WAIT);
    }

    protected function getNextAvailableJob($queue)
    {
        $turns = new Turns($this->database, $queue);
        foreach ($turns->next() as $migration) {
            $job = $turns->oldest($migration);
            if ($job !== null) {
                $turns->took((int) $job->id, $migration);

                return new DatabaseJobRecord($job);
            }
        }

        return null;
    }
}
