<?php

namespace App\Deltas;

/** Rows cannot have the legacy keys a load states now, and why. */
final class KeysRefused extends \DomainException
{
    /** @param  string  $conflict  which rows are in each other's way */
    public static function by(string $conflict): self
    {
        return new self("$conflict. State the legacy key so that rows which stand keep one of their own. Nothing was changed.");
    }
}
