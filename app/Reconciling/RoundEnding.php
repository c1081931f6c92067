<?php

namespace App\Reconciling;

use App\Decisions\Numbers;
use App\Ledger\DueBook;
use App\Models\Audit;
use App\Models\Round;
use App\Models\RoundEnd;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/** Ends rounds: afterwards nothing of them is due, they warn of nothing, and their figures are those they had. */
final class RoundEnding
{
    /** @throws \DomainException while a pass is running, or when it has ended already */
    public static function mayEnd(Round $round): void
    {
        if ($round->hasEnded()) {
            throw new \DomainException("Round $round->name has ended already: {$round->ended_as?->value}, $round->ended_because.");
        }
        if ($round->latestPass()?->isGoing()) {
            throw new \DomainException('A pass is still running. Stop it first.');
        }
    }

    /**
     * Counts it, and keeps what was counted.
     *
     * @throws \DomainException while a pass is running, or when it has ended already
     */
    public static function end(Round $round, RoundEnd $as, string $because): void
    {
        self::mayEnd($round);
        $figures = [];
        foreach (CountBook::now($round) as $entity => $proof) {
            $figures[$entity] = ['after' => $proof->targetAfter, 'other' => $proof->otherOrigin];
        }
        DB::transaction(function () use ($round, $as, $because, $figures) {
            $open = Round::query()->whereKey($round->id)->lockForUpdate()->firstOrFail();
            self::mayEnd($open);
            $open->update([
                'ended_as' => $as,
                'ended_because' => $because,
                'ended_with' => Numbers::last($open->migration_id),
                'ended_at' => now(),
                'ended_by' => Auth::id(),
                'figures' => $figures,
            ]);
            (new DueBook($open->laneId()))->forget();
            Audit::note($open->migration_id, "$as->value round $open->name", ['because' => $because]);
        });
        $round->refresh();
    }
}
