<?php

namespace App\Queueing;

use App\Support\Attempts;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** What a worker does, for which migration. */
abstract class Job implements ShouldQueue
{
    use Queueable;

    /** Of what may be begun again after its worker was killed, and counts itself how often that is worth it. */
    protected const AGAIN = Attempts::MOST + 1;

    /** Seconds; none by itself: what it works on has limits of its own. */
    public int $timeout = 0;

    /** Not again after its worker was killed: failed() tells whoever waits for it. */
    public int $tries = 1;

    /** Puts it into its queue so often that it waits there so many times in all. */
    public static function atLeast(self $job, int $times = 1): void
    {
        for ($waits = Turns::waiting($job); $waits < $times; $waits++) {
            dispatch(clone $job);
        }
    }

    abstract public function kind(): Kind;

    /** @return int|null null where there is none yet */
    abstract public function migration(): ?int;
}
