<?php

namespace App\Mapping;

use App\Models\Rule;
use App\Support\When;

/** Somebody else changed the rule in the meantime. */
final class RuleConflict extends \RuntimeException
{
    public function __construct(public readonly ?Rule $now)
    {
        parent::__construct(
            ($now?->user->name ?? 'Somebody').' changed this rule'
                .($now?->updated_at === null ? '' : ' at '.When::said($now->updated_at, 'clock'))
                .' while you had it open.',
        );
    }
}
