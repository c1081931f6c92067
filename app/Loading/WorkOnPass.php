<?php

namespace App\Loading;

use App\Models\Pass;
use App\Queueing\Job;
use App\Queueing\Kind;
use App\Queueing\Turns;

/** One worker's part in a pass. Several may be at the same one; each makes room when another migration waits that has fewer. */
final class WorkOnPass extends Job
{
    public int $tries = self::AGAIN;

    /** Seconds at the least between two looks whether another migration waits. */
    private const LOOK = 3.0;

    public function __construct(public readonly int $pass)
    {
    }

    /** As many workers as there are. */
    public static function byAll(int $pass): void
    {
        self::atLeast(new self($pass), max(1, (int) config('baggage.workers')));
    }

    public function kind(): Kind
    {
        return Kind::Passes;
    }

    public function migration(): ?int
    {
        return Pass::query()->find($this->pass)?->round->migration_id;
    }

    public function handle(): void
    {
        $pass = Pass::query()->find($this->pass);
        if ($pass === null) {
            return;
        }
        $migration = $pass->round->migration_id;
        $looked = microtime(true);
        $left = PassRunner::of($pass)->work(function () use ($migration, &$looked): bool {
            if (microtime(true) - $looked < self::LOOK) {
                return false;
            }
            $looked = microtime(true);

            return Turns::at(Kind::Passes)->isOver($migration);
        });
        $left ? self::dispatch($this->pass) : null;
    }
}
