<?php

namespace App\DryRuns;

use App\Deltas\Delta;
use App\Ledger\DryRows;
use App\Ledger\Only;
use App\Models\DryRun;
use App\Models\DryRunKind;
use App\Models\Migration;
use App\Models\PassState;
use App\Models\Round;
use App\Models\Target;
use App\Models\WorkState;
use App\Targets\DryRecords;
use Illuminate\Support\Facades\Auth;

/** Begins dry runs, and lets old ones go. */
final class DryRuns
{
    /** Kept of a migration, the newest: each with its rows. */
    private const KEPT = 20;

    /**
     * A repair that is not made yet, tried on its rows and those below them.
     *
     * @param  array<string, mixed>  $more  kept with it
     */
    public static function ofRepair(Round $round, Supposed $supposed, string $title, array $more = []): DryRun
    {
        return self::begin($round->migration()->firstOrFail(), $round->target()->firstOrFail(), DryRunKind::Repair, $title, $round, [
            'repair' => $supposed->toArray(),
        ] + $more);
    }

    /**
     * What loading again would do.
     *
     * @param  list<int>  $without  loads that are left out
     * @param  Only|null  $only  the causes it is about
     *
     * @throws \DomainException
     */
    public static function ofRetry(Round $round, array $without = [], ?Only $only = null): DryRun
    {
        if ($round->latestPass() === null) {
            throw new \DomainException('This round has no first pass yet.');
        }

        return self::begin(
            $round->migration()->firstOrFail(), $round->target()->firstOrFail(), DryRunKind::Retry, 'Loading again', $round,
            ['without' => $without, 'only' => $only?->id()],
        );
    }

    /**
     * What a delta would do.
     *
     * @param  list<int>  $without  loads that are left out
     *
     * @throws \DomainException
     */
    public static function ofDelta(Round $round, Delta $delta, array $without = []): DryRun
    {
        if ($round->latestPass()?->state !== PassState::Finished) {
            throw new \DomainException('A delta follows a pass that is through: there is none, or the last one was not ended.');
        }

        return self::begin(
            $round->migration()->firstOrFail(), $round->target()->firstOrFail(), DryRunKind::Delta, 'A delta', $round,
            ['without' => $without] + $delta->toArray(),
        );
    }

    /**
     * What the first pass of a round would do that is not begun yet.
     *
     * @param  array<string, string|null>  $parameters
     * @param  list<int>  $without  loads that are left out
     * @param  Round|null  $earlier  whose key crosswalk it would take over
     */
    public static function ofFirst(
        Migration $migration,
        Target $target,
        array $parameters,
        array $without = [],
        ?Round $earlier = null,
    ): DryRun {
        return self::begin($migration, $target, DryRunKind::First, "A first pass into $target->name", null, [
            'parameters' => $parameters,
            'without' => $without,
            'earlier' => $earlier?->lane?->id,
        ]);
    }

    public static function stop(DryRun $run): void
    {
        DryRun::query()->whereKey($run->id)->whereIn('state', [WorkState::Queued, WorkState::Running])->update([
            'state' => WorkState::Refused, 'error' => 'It was stopped.', 'ended_at' => now(),
        ]);
    }

    /** @param  array<string, mixed>  $given */
    private static function begin(
        Migration $migration,
        Target $target,
        DryRunKind $kind,
        string $title,
        ?Round $round,
        array $given,
    ): DryRun {
        if ($round?->latestPass()?->isGoing()) {
            throw new \DomainException('A pass is at work on these rows. Try it when it has ended.');
        }
        self::sweep($migration);
        $run = DryRun::query()->create([
            'migration_id' => $migration->id,
            'round_id' => $round?->id,
            'target_id' => $target->id,
            'user_id' => Auth::id(),
            'kind' => $kind,
            'title' => mb_substr($title, 0, 255),
            'given' => $given,
            'decision' => 0,
            'state' => WorkState::Queued,
        ]);
        WorkOnDryRun::dispatch($run->id);

        return $run->refresh();
    }

    private static function sweep(Migration $migration): void
    {
        $old = DryRun::query()->where('migration_id', $migration->id)->whereNotIn('state', [WorkState::Queued, WorkState::Running])
            ->latest('id')->skip(self::KEPT - 1)->take(100)->get();
        foreach ($old as $run) {
            self::forget($run);
        }
    }

    public static function forget(DryRun $run): void
    {
        (new DryRows($run->id))->forget();
        DryRecords::forget($run->id);
        $run->delete();
    }
}
