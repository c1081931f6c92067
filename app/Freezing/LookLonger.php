<?php

namespace App\Freezing;

use App\Models\Migration;
use App\Queueing\Job;
use App\Queueing\Kind;
use App\Support\ApartEnded;
use App\Support\Bounds;

/** Looks at what takes longer than a page waits. */
final class LookLonger extends Job
{
    /** @param  array<string, mixed>  $given */
    private function __construct(
        private readonly string $key,
        private readonly string $what,
        private readonly array $given,
        private readonly ?int $of,
    ) {
    }

    /** @param  array<string, mixed>  $given */
    public static function ask(string $key, string $what, array $given): void
    {
        $migration = request()->route('migration');
        dispatch(new self($key, $what, $given, $migration instanceof Migration ? $migration->id : null));
    }

    public function kind(): Kind
    {
        return Kind::Looks;
    }

    public function migration(): ?int
    {
        return $this->of;
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
