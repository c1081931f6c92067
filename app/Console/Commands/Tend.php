<?php

namespace App\Console\Commands;

use App\Freezing\FreezeTake;
use App\Loading\WorkOnPass;
use App\Mapping\CheckLoad;
use App\Models\LoadCheck;
use App\Models\Pass;
use App\Models\Take;
use App\Profiling\StudyMigration;
use App\Support\BulkRows;
use App\Support\WorkerPresence;
use Illuminate\Console\Command;
use Illuminate\Support\Facades\DB;

final class Tend extends Command
{
    protected $signature = 'baggage:tend';

    protected $description = 'Take up work that a killed worker left behind';

    public function handle(): int
    {
        foreach (Pass::query()->where('state', 'running')->get() as $pass) {
            if (! WorkerPresence::of("pass:$pass->id")->isAnybodyThere()) {
                $this->line("Pass $pass->id of round $pass->round_id goes on.");
                WorkOnPass::dispatch($pass->id);
            }
        }
        foreach (
            Take::query()
                ->whereIn('state', ['reading', 'stopping'])
                ->get() as $take
        ) {
            if (! WorkerPresence::of("take:$take->id")->isAnybodyThere()) {
                FreezeTake::dispatch($take->id);
            }
        }
        foreach (
            LoadCheck::query()
                ->whereIn('state', ['running', 'stopping'])
                ->get() as $check
        ) {
            if (! WorkerPresence::of("check:$check->id")->isAnybodyThere()) {
                CheckLoad::dispatch($check->id);
            }
        }
        // A migration whose newest takes were frozen by a worker that was killed before it studied them.
        $unstudied = Take::query()
            ->where('state', 'frozen')
            ->whereNull('studied_at')
            ->whereHas('extract', fn ($q) => $q->whereColumn('extracts.take_id', 'takes.id'))
            ->with('extract.source')
            ->get();
        foreach (
            $unstudied->map(fn (Take $t) => $t->extract?->source?->migration_id)->filter()->unique() as $migration
        ) {
            if (DB::scalar('SELECT IS_USED_LOCK(?)', [StudyMigration::lock($migration)]) === null) {
                StudyMigration::dispatch($migration);
            }
        }
        BulkRows::sweepOld(3600);
        // What the killed worker had reserved is done by the jobs above.
        DB::table('jobs')
            ->whereNotNull('reserved_at')
            ->where('reserved_at', '<', now()->subDay()->timestamp)
            ->delete();

        return 0;
    }
}
