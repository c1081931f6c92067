<?php

namespace App\Reckoning;

use App\Models\Round;
use App\Models\Work;
use App\Queueing\Kind;
use App\Queueing\WorkJob;
use App\Support\Amount;
use Baggage\Core\Loading\TargetUnavailable;

/** Counts control totals and compares records for whoever asked. */
final class ReckonRound extends WorkJob
{
    public function kind(): Kind
    {
        return Kind::Rows;
    }

    protected function done(Work $work): array
    {
        $round = Round::query()->where('migration_id', $work->migration_id)->with('lane')->findOrFail($work->given['round']);
        $progress = new Progress($work);
        try {
            [$totals, $compared] = Reckonings::now($round, $work->given['totals'], $work->given['compare'], $progress->reached(...));
        } catch (TargetUnavailable $e) {
            throw new \DomainException($e->getMessage(), 0, $e);
        }
        $said = array_filter([
            $totals === null ? null : Amount::of(count($totals->figures['totals'] ?? []), 'control total').' counted',
            $compared === null ? null : Amount::of((int) ($compared->figures['looked'] ?? 0), 'record').' compared',
        ]);

        return ['told' => ucfirst(implode(', ', $said)).'.', 'done' => $progress->done, 'total' => $progress->done];
    }

    protected function brokeOff(Work $work): string
    {
        return 'Counting ended';
    }
}
