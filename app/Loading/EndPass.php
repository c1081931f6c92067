<?php

namespace App\Loading;

use App\Models\Pass;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Ends a pass that is paused: what it did not come to was not asked for. */
final class EndPass implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(public readonly int $pass)
    {
    }

    public function handle(): void
    {
        $pass = Pass::query()->find($this->pass);
        if ($pass !== null) {
            PassRunner::of($pass)->end();
        }
    }
}
