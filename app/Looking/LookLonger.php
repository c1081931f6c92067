<?php

namespace App\Looking;

use App\Models\Migration;
use App\Queueing\Job;
use App\Queueing\Kind;

/** Looks at what takes longer than a page waits. */
final class LookLonger extends Job
{
    /**
     * @param  class-string<Looker>  $who
     * @param  array<string, mixed>  $given
     */
    private function __construct(
        private readonly string $key,
        private readonly string $who,
        private readonly array $given,
        private readonly ?int $of,
    ) {
    }

    /**
     * @param  class-string<Looker>  $who
     * @param  array<string, mixed>  $given
     */
    public static function ask(string $key, string $who, array $given): void
    {
        $migration = request()->route('migration');
        dispatch(new self($key, $who, $given, $migration instanceof Migration ? $migration->id : null));
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
        Looks::keep($this->key, Looks::long($this->who, $this->given));
    }

    public function failed(?\Throwable $e): void
    {
        Looks::keep($this->key, ['refused' => 'The worker that looked at it ended before it was done. Try it again.']);
    }
}
