<?php

namespace App\Loading;

/** What was written cannot be taken back, and why. */
final class BackOutRefused extends \DomainException
{
    /** @param  string  $stands  which round stands on which record */
    public static function by(string $stands): self
    {
        return new self("$stands. Back that one out first. Nothing was changed.");
    }
}
