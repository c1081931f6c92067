<?php

namespace App\Loading;

use App\Models\Pass;
use App\Queueing\Job;
use App\Queueing\Kind;

/** Ends a pass that is paused: what it did not come to was not asked for. */
final class EndPass extends Job
{
    public function __construct(public readonly int $pass)
    {
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
        if ($pass !== null) {
            PassRunner::of($pass)->end();
        }
    }
}
