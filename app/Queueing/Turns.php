<?php

namespace App\Queueing;

use Illuminate\Database\Connection;
use Illuminate\Support\Facades\DB;

/**
 * Whose turn it is at a queue. A worker has a job as long as its connection to the database stands: what a killed one had is nobody's,
 * and comes again. How often one may come again its class says; of one that may not, who waits for it is told.
 */
final readonly class Turns
{
    public function __construct(private Connection $database, private string $queue)
    {
    }

    public static function at(Kind $kind): self
    {
        return new self(DB::connection(), $kind->value);
    }

    /** @return list<int> migrations that may have a worker now, whose turn it is first; 0 for what is of none */
    public function next(): array
    {
        // Most of the time there is nothing, and that is asked all the time.
        $isEmpty = $this->database->scalar('SELECT COUNT(*) FROM (SELECT 1 FROM jobs WHERE queue = ? LIMIT 1) some', [$this->queue]) === 0;
        $of = $isEmpty ? [] : array_filter($this->shares(), fn (array $share) => $share['waits'] > 0);
        if ($of === []) {
            return [];
        }
        $most = Kind::tryFrom($this->queue)?->atMost() ?? PHP_INT_MAX;
        $of = array_filter($of, fn (array $share) => $share['has'] < $most);
        $last = $this->database->table('turns')->where('queue', $this->queue)->pluck('at', 'migration_id')->all();
        $rank = fn (int $one) => [$of[$one]['has'], $last[$one] ?? 0, $of[$one]['first']];
        $migrations = array_keys($of);
        usort($migrations, fn (int $a, int $b) => $rank($a) <=> $rank($b));

        return $migrations;
    }

    /** Whether one who works for a migration is to make room: another waits that has none, or fewer even with one more. */
    public function isOver(int $migration): bool
    {
        $of = $this->shares();
        $mine = $of[$migration]['has'] ?? 0;
        unset($of[$migration]);
        foreach ($of as $share) {
            if ($share['waits'] > 0 && ($share['has'] === 0 || $mine > $share['has'] + 1)) {
                return true;
            }
        }

        return false;
    }

    /** The oldest job of a migration that nobody has or takes. */
    public function oldest(int $migration): ?\stdClass
    {
        $found = $this->database->select(
            "SELECT jobs.* FROM jobs WHERE queue = ? AND migration_id = ? AND available_at <= ? AND {$this->nobodyHasIt()}
            ORDER BY id LIMIT 1 FOR UPDATE SKIP LOCKED",
            [$this->queue, $migration, time()],
        );

        return $found[0] ?? null;
    }

    /** How often the same job waits already. */
    public static function waiting(Job $job): int
    {
        $turns = self::at($job->kind());

        return (int) $turns->database->scalar(
            "SELECT COUNT(*) FROM jobs WHERE what = ? AND {$turns->nobodyHasIt()}",
            [md5(serialize($job))],
        );
    }

    /** By the connection of this process. */
    public function took(int $job, int $migration): void
    {
        $this->database->update('UPDATE jobs SET taken_by = CONNECTION_ID() WHERE id = ?', [$job]);
        $this->database->insert(
            'INSERT INTO turns (queue, migration_id, at) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE at = VALUES(at)',
            [$this->queue, $migration, (int) (microtime(true) * 1e6)],
        );
    }

    /** @return array<int, array{waits: int, has: int, first: int}> migration → jobs that wait, workers it has, the oldest that waits */
    private function shares(): array
    {
        $free = $this->nobodyHasIt();
        $found = $this->database->select(
            "SELECT migration_id, SUM(available_at <= ? AND $free) AS waits, SUM(NOT $free) AS has, MIN(IF($free, id, NULL)) AS first
            FROM jobs WHERE queue = ? GROUP BY migration_id",
            [time(), $this->queue],
        );
        $of = [];
        foreach ($found as $row) {
            $of[(int) $row->migration_id] = ['waits' => (int) $row->waits, 'has' => (int) $row->has, 'first' => (int) $row->first];
        }

        return $of;
    }

    /** A server that was started since has other connections of the same numbers. */
    private function nobodyHasIt(): string
    {
        $since = 'UNIX_TIMESTAMP() - (SELECT VARIABLE_VALUE FROM information_schema.GLOBAL_STATUS WHERE VARIABLE_NAME = \'UPTIME\')';

        return "(reserved_at IS NULL OR reserved_at < $since OR taken_by IS NULL
            OR taken_by NOT IN (SELECT id FROM information_schema.PROCESSLIST))";
    }
}
