<?php

namespace App\Models;

/**
 * A stored secret was given for one user at one place: when any of these changes and no new secret comes with it, the old one is
 * dropped before it could be sent elsewhere. A name from the environment goes with it, unless a plan read on the command line
 * states both.
 */
final class ForgetsSecret
{
    private const PLACE = ['driver', 'host', 'port', 'database', 'username'];

    public function saving(Connection|Target $described): void
    {
        if (! $described->exists || ! $described->isDirty(self::PLACE)) {
            return;
        }
        // Encrypted anew it differs, also where it is the same word: then it was given for this place.
        if (($described->getAttributes()['password'] ?? null) === $described->getRawOriginal('password')) {
            $described->password = null;
        }
        if (! $described->from_command_line) {
            $described->password_env = null;
        }
    }
}
