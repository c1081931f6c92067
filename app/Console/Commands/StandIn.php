<?php

namespace App\Console\Commands;

use App\Models\Target;
use App\Targets\TargetLink;

/** The way to the demo's new application, which bin/start names in the environment. */
final class StandIn
{
    public static function link(): TargetLink
    {
        return new TargetLink(new Target([
            'name' => 'rehearsal',
            'host' => '${HARBOUR_OFFICE_HOST}',
            'port' => '${HARBOUR_OFFICE_PORT}',
            'database' => '${HARBOUR_OFFICE_DATABASE}',
            'username' => '${HARBOUR_OFFICE_USERNAME}',
            'password_env' => 'HARBOUR_OFFICE_PASSWORD',
            'from_command_line' => true,
        ]));
    }
}
