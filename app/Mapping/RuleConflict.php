<?php

namespace App\Mapping;

use App\Models\Rule;

/** Somebody else changed the rule in the meantime. */
final class RuleConflict extends \RuntimeException
{
    public function __construct(public readonly ?Rule $now)
    {
        parent::__construct(
            ($now?->user->name ?? 'Somebody').' changed this rule'
                .($now?->updated_at === null ? '' : ' at '.$now->updated_at->format('H:i'))
                .' while you had it open.',
        );
    }
}
