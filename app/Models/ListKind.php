<?php

namespace App\Models;

/** What the document of a list of changes was about. */
enum ListKind: string
{
    case Mapping = 'mapping';
    case Codes = 'codes';
    case Target = 'target';
    case Plan = 'plan';

    /** The stop of the route where it belongs. */
    public function stop(): string
    {
        return match ($this) {
            self::Codes => 'crosswalks',
            self::Plan => 'sources',
            default => $this->value,
        };
    }
}
