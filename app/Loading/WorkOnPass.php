<?php

namespace App\Loading;

use App\Models\Pass;
use App\Support\OtherWork;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** One worker's part in a pass. Several run for the same pass: one stays to the end, the others make room when other work waits. */
final class WorkOnPass implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(public readonly int $pass, public readonly bool $makesRoom = false)
    {
    }

    /** As many workers as there are. */
    public static function byAll(int $pass): void
    {
        for ($worker = 1; $worker <= max(1, (int) config('baggage.workers')); $worker++) {
            self::dispatch($pass, $worker > 1);
        }
    }

    public function handle(): void
    {
        $pass = Pass::query()->find($this->pass);
        if ($pass === null) {
            return;
        }
        $left = false;
        PassRunner::of($pass)->work(function () use (&$left): bool {
            return $left = $this->makesRoom && OtherWork::waits(self::class);
        });
        if ($left) {
            self::dispatch($this->pass, true);
        }
    }
}
