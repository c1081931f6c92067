<?php

namespace App\Models;

/** What can be decided about a finding. */
enum FindingDecision: string
{
    case Open = 'open';
    case Accepted = 'accepted';
    case AtSource = 'at_source';
    case ByRule = 'by_rule';

    public function label(): string
    {
        return match ($this) {
            self::Open => 'open',
            self::Accepted => 'accepted as it is',
            self::AtSource => 'to be fixed at source',
            self::ByRule => 'handled by a rule',
        };
    }
}
