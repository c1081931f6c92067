<?php

namespace App\Rejects;

use App\Decisions\Numbers;
use App\Ledger\CauseSet;
use App\Models\Answer;
use App\Models\Load;
use App\Models\Repair;
use App\Models\Round;
use App\Models\Work;
use App\Models\WorkKind;
use App\Queueing\Kind;
use App\Queueing\WorkJob;
use App\Support\Amount;
use App\Support\Attempts;

/** A repair of so many rows that nobody should wait for the page. */
final class RepairRows extends WorkJob
{
    /** Rows a page repairs itself. */
    public const AT_ONCE = 2_000;

    public function kind(): Kind
    {
        return Kind::Rows;
    }

    protected function done(Work $work): array
    {
        return ['told' => $this->repaired(app(Repairs::class), $work), 'done' => $work->total];
    }

    protected function where(Work $work): string
    {
        return Attempts::within($work->done, self::AT_ONCE);
    }

    /** @param  \Closure(): int  $do */
    private static function noted(Work $work, \Closure $do): int
    {
        [$n, $numbers] = Numbers::noting($do);
        $work->update(['given' => ['numbers' => $numbers] + $work->given]);

        return $n;
    }

    /** @param  array<string, mixed>  $of */
    private static function causes(array $of): CauseSet
    {
        return isset($of['causes']) ? CauseSet::fromArray($of['causes']) : CauseSet::one((int) $of['cause']);
    }

    /**
     * @param  array{int, int}  $of  cells corrected, and those somebody corrected otherwise meanwhile
     *
     * @throws \DomainException where none was
     */
    public static function takenIn(array $of): string
    {
        $others = $of[1] === 0 ? '' : ' '.Amount::of($of[1], 'other').' '.($of[1] === 1 ? 'says' : 'say')
            .' something else by now: look at both.';

        return $of[0] === 0
            ? throw new \DomainException("Nothing was taken in.$others")
            : Amount::of($of[0], 'cell').' corrected as answered.'.$others;
    }

    /** @return string what was done */
    private function repaired(Repairs $repairs, Work $work): string
    {
        $of = $work->given;
        if ($work->kind === WorkKind::Undo) {
            return app(Undo::class)->now(Repair::query()->where('migration_id', $work->migration_id)->findOrFail($of['repair']));
        }
        $round = Round::query()->where('migration_id', $work->migration_id)->findOrFail($of['round']);
        if ($work->kind === WorkKind::Confirm) {
            return Amount::of($repairs->confirmWaivers($round), 'row').' waived as before.';
        }
        $load = Load::query()->where('migration_id', $work->migration_id)->findOrFail($of['load']);

        return match ($work->kind) {
            WorkKind::CorrectValue => Amount::of(
                $repairs->correctValue(
                    $round, $load, self::causes($of), $of['header'], $of['new'], $of['reason'], $work, $of['seen'] ?? null,
                ),
                'row',
            ).' corrected.',
            WorkKind::Waive => Amount::of(
                self::noted($work, fn () => $repairs->waive($round, $load, self::causes($of), $of['reason'])),
                'row',
            ).' waived.',
            WorkKind::TakeIn => self::takenIn(app(TakeIn::class)->take(
                $round, $load, Answer::query()->findOrFail($of['answer']), $of['changes'] ?? null, $of['reason'], $work,
            )),
            WorkKind::TakeBack => Amount::of($repairs->takeBack($round, $load, $of['cause']), 'row').' rejected again.',
            WorkKind::Ask => Amount::of($repairs->ask($round, $load, $of['cause']), 'row').' will be tried again.',
            WorkKind::References => Amount::of(
                $repairs->waiveReferences($round, $load, $of['field'], $of['reason']),
                'reference',
            ).' left open.',
            default => throw new \LogicException("{$work->kind->value} is no repair."),
        };
    }
}
