<?php

namespace App\Reckoning;

use App\Models\Work;
use App\Support\Amount;

/** Tells of work that goes through rows how far it is, and ends it where somebody stops it. */
final class Progress
{
    /** Seconds between two looks at what else is going on. */
    private const EVERY = 0.5;

    public int $done = 0;

    private float $told = 0.0;

    public function __construct(private readonly Work $work)
    {
    }

    /** @throws \DomainException where somebody stopped it */
    public function reached(int $done): void
    {
        $this->done = $done;
        if (microtime(true) - $this->told < self::EVERY) {
            return;
        }
        $this->told = microtime(true);
        $this->work->reached($done);
        if ($this->work->isToStop()) {
            throw new \DomainException('Stopped after '.Amount::of($done, 'row').'. What was counted before stays.');
        }
    }
}
