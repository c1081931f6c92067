<?php

namespace App\Profiling;

use App\Models\Migration;
use App\Queueing\Job;
use App\Queueing\Kind;
use Illuminate\Contracts\Queue\ShouldBeUniqueUntilProcessing;

/** Studies the takes of a migration that have not been studied yet. */
final class StudyMigration extends Job implements ShouldBeUniqueUntilProcessing
{
    public int $tries = self::AGAIN;

    public int $uniqueFor = 600;

    public function __construct(public readonly int $migration)
    {
    }

    public function uniqueId(): string
    {
        return (string) $this->migration;
    }

    public function kind(): Kind
    {
        return Kind::Rows;
    }

    public function migration(): int
    {
        return $this->migration;
    }

    public function handle(Study $study): void
    {
        $migration = Migration::query()->find($this->migration);
        if ($migration !== null) {
            $study->of($migration);
        }
    }
}
