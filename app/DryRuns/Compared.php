<?php

namespace App\DryRuns;

use App\Ledger\DryTries;
use App\Models\DryRun;
use App\Models\DryRunKind;
use App\Models\LoadState;
use App\Models\Pass;
use App\Models\PassKind;
use App\Models\WorkState;

/** A pass beside the dry run before it: that it did what was said, or why not. */
final class Compared
{
    public static function note(Pass $pass): void
    {
        $run = self::before($pass);
        if ($run === null) {
            return;
        }
        $because = self::because($pass, $run);
        $kinds = $because === null ? (new DryTries($run->id, $pass->lane_id))->otherwise($pass->lane_id) : [];
        $pass->update(['compared' => [
            'run' => $run->id,
            'because' => $because,
            'said' => (int) ($run->found['tried'] ?? 0),
            'tried' => (int) $pass->passLoads()->sum('rows_done'),
            'kinds' => array_map(get_object_vars(...), $kinds),
        ]]);
    }

    /** The newest one of the same, since the pass before. */
    private static function before(Pass $pass): ?DryRun
    {
        $isFirst = $pass->kind === PassKind::First;
        $kind = match ($pass->kind) {
            PassKind::First => DryRunKind::First,
            PassKind::Delta => DryRunKind::Delta,
            default => DryRunKind::Retry,
        };
        $last = Pass::query()->where('round_id', $pass->round_id)->where('id', '<', $pass->id)->max('started_at');

        return DryRun::query()
            ->where('migration_id', $pass->round->migration_id)
            ->where('target_id', $pass->lane->target_id ?? 0)
            ->where('kind', $kind)
            ->where('round_id', $isFirst ? null : $pass->round_id)
            ->where('state', WorkState::Done)
            ->where('ended_at', '<=', $pass->started_at ?? now())
            // Whole seconds are kept of it.
            ->where('ended_at', '>=', substr($last ?? '2000-01-01', 0, 19))
            ->latest('id')
            ->first();
    }

    /** Why it says nothing of this pass; null where it does. */
    private static function because(Pass $pass, DryRun $run): ?string
    {
        $out = $pass->passLoads()->where('state', LoadState::LeftOut)->pluck('load_id')->all();
        [$takes, $without] = [$run->found['takes'] ?? [], $run->given['without'] ?? []];

        return match (true) {
            $run->plan !== $pass->plan?->hash => 'rules, codes or parameters were changed since',
            $run->decision !== $pass->decision => 'rows were decided about since',
            $takes != $pass->passLoads()->pluck('take_id', 'load_id')->all() => 'newer takes were read since',
            ($run->given['only'] ?? null) !== $pass->only || ($run->given['full'] ?? false) !== $pass->is_full => 'it was about other rows',
            array_diff($out, $without) !== [] || array_diff($without, $out) !== [] => 'the pass left out other loads',
            default => null,
        };
    }
}
