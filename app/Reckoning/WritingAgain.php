<?php

namespace App\Reckoning;

use App\Models\Load;
use App\Models\Round;
use App\Models\Work;
use App\Models\WorkKind;
use App\Queueing\Kind;
use App\Queueing\WorkJob;

/** Marks many records to be written again, or to be left, for whoever asked. */
final class WritingAgain extends WorkJob
{
    public function kind(): Kind
    {
        return Kind::Rows;
    }

    protected function done(Work $work): array
    {
        $of = $work->given;
        $round = Round::query()->where('migration_id', $work->migration_id)->findOrFail($of['round']);
        $load = Load::query()->where('migration_id', $work->migration_id)->findOrFail($of['load']);
        $again = new WriteAgain($round, $load, $of['reckoning'], $of['field'], $of['class'], $of['row'] ?? null);

        return ['told' => $work->kind === WorkKind::WriteAgain ? $again->ask() : $again->leave(), 'done' => $work->total];
    }
}
