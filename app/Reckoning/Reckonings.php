<?php

namespace App\Reckoning;

use App\Decisions\Numbers;
use App\Models\Lane;
use App\Models\Reckoning;
use App\Models\ReckoningKind;
use App\Models\Round;
use App\Support\NamedLock;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/** Has rounds reckoned, and keeps of each the newest of its kind. */
final class Reckonings
{
    private const DELETED_AT_ONCE = 20_000;

    /** The newest that was done. */
    public static function newest(Round $round, ReckoningKind $kind): ?Reckoning
    {
        return Reckoning::query()->where('round_id', $round->id)->where('kind', $kind)->whereNotNull('done_at')->with('user')
            ->orderByDesc('id')->first();
    }

    /** @throws \DomainException why it cannot be reckoned */
    public static function mayReckon(Round $round): void
    {
        match (true) {
            $round->hasEnded() => throw new \DomainException("Round $round->name has ended: its figures are those it had."),
            $round->lane === null || $round->latestPass() === null => throw new \DomainException('Nothing was loaded in this round yet.'),
            $round->latestPass()->isGoing() => throw new \DomainException('A pass is running: it is reckoned between passes.'),
            self::isOverwritten($round) => throw new \DomainException(
                'A later round writes into the same target: its records say nothing of this one any more.',
            ),
            default => null,
        };
    }

    private static function isOverwritten(Round $round): bool
    {
        return Lane::query()->where('target_id', $round->lane?->target_id)->where('id', '>', $round->laneId())
            ->whereHas('round.passes')->exists();
    }

    /**
     * Counts and compares here and now; what there was before stays where it breaks off.
     *
     * @param  bool  $totals  whether control totals are counted
     * @param  array{sample?: int|null, seed?: int|null, confidence?: float, share?: float, entity?: string|null}|null  $compare  null: not
     * @param  \Closure(int): void|null  $reached  told how many rows were gone through; what it throws ends it
     * @return array{Reckoning|null, Reckoning|null} totals and comparison
     *
     * @throws \DomainException why it cannot be reckoned
     * @throws \Baggage\Core\Loading\TargetUnavailable
     */
    public static function now(Round $round, bool $totals, ?array $compare, ?\Closure $reached = null): array
    {
        self::mayReckon($round);

        return NamedLock::of("reckon:$round->id")->during(fn () => self::reckon($round, $totals, $compare, $reached))
            ?? throw new \DomainException('It is being counted already, by somebody else.');
    }

    /**
     * @param  array<string, mixed>|null  $compare
     * @param  \Closure(int): void|null  $reached
     * @return array{Reckoning|null, Reckoning|null}
     */
    private static function reckon(Round $round, bool $totals, ?array $compare, ?\Closure $reached): array
    {
        $pass = $round->latestPass()?->id;
        $decision = Numbers::last($round->migration_id);
        $begin = fn (ReckoningKind $kind, array $asked) => Reckoning::query()->create([
            'round_id' => $round->id, 'kind' => $kind, 'asked' => $asked, 'pass_id' => $pass, 'user_id' => Auth::id(), 'begun_at' => now(),
        ]);
        $made = [
            $totals ? $begin(ReckoningKind::Totals, ['decision' => $decision]) : null,
            $compare === null ? null : $begin(ReckoningKind::Comparison, $compare),
        ];
        try {
            Reckoner::of($round, $decision, self::between($round, $reached))->run(...$made);
        } catch (\Throwable $e) {
            self::forget(array_map(fn (Reckoning $r) => $r->id, array_values(array_filter($made))));
            throw $e;
        }
        foreach (array_filter($made) as $reckoning) {
            $reckoning->update(['done_at' => now()]);
            self::forget(self::others($reckoning));
        }

        return $made;
    }

    /** @return list<int> those before it, and what broke off */
    private static function others(Reckoning $reckoning): array
    {
        return Reckoning::query()->where('round_id', $reckoning->round_id)->where('kind', $reckoning->kind)
            ->where('id', '<', $reckoning->id)->pluck('id')->map(fn ($id) => (int) $id)->values()->all();
    }

    /** @param  list<int>  $reckonings */
    public static function forget(array $reckonings): void
    {
        foreach ($reckonings as $id) {
            foreach (['differing_rows', 'total_groups', 'group_rows'] as $table) {
                self::inRanges(fn () => DB::table($table)->where('reckoning_id', $id));
            }
            Reckoning::query()->whereKey($id)->delete();
        }
    }

    /** @param  \Closure(): \Illuminate\Database\Query\Builder  $of  rows that go */
    public static function inRanges(\Closure $of): void
    {
        do {
            $n = $of()->limit(self::DELETED_AT_ONCE)->delete();
        } while ($n === self::DELETED_AT_ONCE);
    }

    /**
     * Lists the rows of one group of what was counted, as they were then.
     *
     * @param  \Closure(int): void  $reached  as now() takes it
     *
     * @throws \DomainException why they cannot be listed
     * @throws \Baggage\Core\Loading\TargetUnavailable
     */
    public static function list(Reckoning $reckoning, int $total, string $group, \Closure $reached): int
    {
        $round = $reckoning->round()->firstOrFail();
        $line = collect(TotalLine::of($reckoning))->firstWhere('number', $total) ?? throw new \DomainException('There is no such total.');
        if ($round->latestPass()?->id !== $reckoning->pass_id || ! isset($reckoning->asked['decision'])) {
            throw new \DomainException('A pass ran since it was counted. Count the totals again first.');
        }
        self::mayReckon($round);
        $check = self::between($round, $reached);

        return NamedLock::of("reckon:$round->id")->during(fn () => (new GroupRows($reckoning, $line, $group))->find($check))
            ?? throw new \DomainException('It is being counted already, by somebody else.');
    }

    /**
     * Rows and records are of one moment only while no pass runs.
     *
     * @param  \Closure(int): void|null  $reached
     * @return \Closure(int): void
     */
    private static function between(Round $round, ?\Closure $reached): \Closure
    {
        $pass = $round->latestPass()?->id;

        return function (int $done) use ($round, $pass, $reached): void {
            $now = $round->passes()->latest('id')->first(['id', 'state']);
            if ($now?->id !== $pass || $now?->isGoing()) {
                throw new \DomainException('A pass began meanwhile: rows and records are not of one moment. Count again after it.');
            }
            $reached === null ?: $reached($done);
        };
    }
}
