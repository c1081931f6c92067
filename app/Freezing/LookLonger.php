<?php

namespace App\Freezing;

use App\Support\ApartEnded;
use App\Support\Bounds;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Looks at what takes longer than a page waits. */
final class LookLonger implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    /** Looks have a worker of their own: none of them keeps a take or a pass waiting. */
    public const QUEUE = 'looks';

    /** @param  array<string, mixed>  $given */
    private function __construct(private readonly string $key, private readonly string $what, private readonly array $given)
    {
    }

    /** @param  array<string, mixed>  $given */
    public static function ask(string $key, string $what, array $given): void
    {
        dispatch((new self($key, $what, $given))->onQueue(self::QUEUE));
    }

    public function handle(): void
    {
        try {
            Look::keep($this->key, Look::apart($this->what, $this->given, Bounds::of('look_long')));
        } catch (ApartEnded $e) {
            Look::keep($this->key, ['refused' => $e->getMessage()]);
        }
    }

    public function failed(?\Throwable $e): void
    {
        Look::keep($this->key, ['refused' => 'The worker that looked at it ended before it was done. Try it again.']);
    }
}
