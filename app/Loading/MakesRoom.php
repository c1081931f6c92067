<?php

namespace App\Loading;

/** A worker that waits for a target is needed elsewhere, and leaves. */
final class MakesRoom extends \RuntimeException
{
    public static function whileWaiting(\Throwable $for): self
    {
        return new self('Another migration has no worker.', 0, $for);
    }
}
