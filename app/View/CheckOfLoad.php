<?php

namespace App\View;

use App\Catalogue\Definitions;
use App\Mapping\LoadChecker;
use App\Models\CheckState;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Models\Migration;

/** The newest check of a load, and whether it still says something. */
final class CheckOfLoad
{
    /** @return array{migration: Migration, load: Load, check: LoadCheck|null, stale: bool} */
    public static function data(Migration $migration, Definitions $definitions, Load $load, ?string $basis = null): array
    {
        $check = LoadCheck::query()->where('load_id', $load->id)->first();
        $load = $definitions->one($load);

        return [
            'migration' => $migration,
            'load' => $load,
            'check' => $check,
            'stale' => $check?->state === CheckState::Done
                && $check->hash !== LoadChecker::hash($load, $basis ?? LoadChecker::basis($definitions)),
        ];
    }
}
