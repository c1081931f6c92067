<?php

namespace App\Profiling;

use App\Models\Migration;
use Illuminate\Contracts\Queue\ShouldBeUniqueUntilProcessing;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Studies the takes of a migration that have not been studied yet. */
final class StudyMigration implements ShouldBeUniqueUntilProcessing, ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $uniqueFor = 600;

    public function __construct(public readonly int $migration)
    {
    }

    public function uniqueId(): string
    {
        return (string) $this->migration;
    }

    public function handle(Study $study): void
    {
        $migration = Migration::query()->find($this->migration);
        if ($migration !== null) {
            $study->of($migration);
        }
    }
}
