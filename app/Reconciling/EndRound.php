<?php

namespace App\Reconciling;

use App\Models\Round;
use App\Models\RoundEnd;
use App\Models\Work;
use App\Queueing\Kind;
use App\Queueing\WorkJob;

/** Counts a round for the last time and ends it, in the name of whoever asked. */
final class EndRound extends WorkJob
{
    public function kind(): Kind
    {
        return Kind::Passes;
    }

    protected function done(Work $work): array
    {
        $round = Round::query()->where('migration_id', $work->migration_id)->findOrFail($work->given['round']);
        $as = RoundEnd::from($work->given['as']);
        RoundEnding::end($round, $as, $work->given['reason']);

        return ['told' => "$round->name is $as->value. Its figures stay as they are."];
    }

    protected function brokeOff(Work $work): string
    {
        return 'The round was not ended';
    }
}
