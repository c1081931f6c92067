<?php

namespace App\Console;

use App\Files\AnnotateExtract;
use App\Files\AnswerBook;
use App\Files\FileBook;
use App\Files\TakeAnswer;
use App\Files\WriteFile;
use App\Freezing\FreezeTake;
use App\Freezing\Incoming;
use App\Loading\WorkOnPass;
use App\Looking\Aside;
use App\Looking\Looks;
use App\Mapping\CheckLoad;
use App\Mending\RemoveThing;
use App\Models\CheckState;
use App\Models\Draft;
use App\Models\LoadCheck;
use App\Models\Pass;
use App\Models\PassState;
use App\Models\Take;
use App\Models\TakeState;
use App\Models\Work;
use App\Models\WorkKind;
use App\Models\WorkState;
use App\Profiling\Study;
use App\Profiling\StudyMigration;
use App\Queueing\Job;
use App\Reconciling\CountBook;
use App\Reconciling\CountRound;
use App\Reconciling\EndRound;
use App\Rejects\RepairRows;
use App\Rejects\RowsFile;
use App\Support\BulkRows;
use App\Support\Scratch;
use App\Support\WorkerPresence;

/** Takes up work that a killed worker left behind. */
final class Tending
{
    /** @return list<string> what goes on, in words */
    public function all(): array
    {
        $told = $this->passes();
        $this->takes();
        $this->checks();
        $this->studies();
        $this->works();
        RowsFile::sweep();
        FileBook::sweep();
        AnswerBook::sweep();
        Scratch::sweep();
        Incoming::sweep((string) config('baggage.vault'), (int) config('baggage.waiting_days'));
        Aside::sweep();
        Looks::sweep();
        Draft::sweep();
        BulkRows::sweepOld(3600);

        return $told;
    }

    /** @return list<string> */
    private function passes(): array
    {
        $told = [];
        foreach (Pass::query()->where('state', PassState::Running)->get() as $pass) {
            if (! WorkerPresence::of("pass:$pass->id")->isAnybodyThere()) {
                $told[] = "Pass $pass->id of round $pass->round_id goes on.";
                WorkOnPass::byAll($pass->id);
            }
        }
        // One that waits for its turn has somebody who will come for it.
        foreach (Pass::query()->where('state', PassState::Queued)->where('is_prepared', true)->pluck('id') as $pass) {
            Job::atLeast(new WorkOnPass((int) $pass));
        }

        return $told;
    }

    private function takes(): void
    {
        $going = Take::query()->whereIn('state', [TakeState::Reading, TakeState::Stopping])->get();
        foreach ($going as $take) {
            if (! WorkerPresence::of("take:$take->id")->isAnybodyThere()) {
                Job::atLeast(new FreezeTake($take->id));
            }
        }
    }

    private function checks(): void
    {
        $going = LoadCheck::query()->whereIn('state', [CheckState::Running, CheckState::Stopping])->get();
        foreach ($going as $check) {
            if (! WorkerPresence::of("check:$check->id")->isAnybodyThere()) {
                Job::atLeast(new CheckLoad($check->id));
            }
        }
    }

    /** Repairs, files and counts. */
    private function works(): void
    {
        foreach (Work::query()->where('state', WorkState::Running)->get() as $work) {
            if (! WorkerPresence::of("work:$work->id")->isAnybodyThere()) {
                Job::atLeast(match ($work->kind) {
                    WorkKind::Rows => new RowsFile($work->id),
                    WorkKind::EndRound => new EndRound($work->id),
                    WorkKind::Remove => new RemoveThing($work->id),
                    WorkKind::File => new WriteFile($work->id),
                    WorkKind::Annotate => new AnnotateExtract($work->id),
                    WorkKind::Answer => new TakeAnswer($work->id),
                    default => new RepairRows($work->id),
                });
            }
        }
        foreach (CountBook::waiting() as $round) {
            if (! WorkerPresence::of("count:$round")->isAnybodyThere()) {
                Job::atLeast(new CountRound($round));
            }
        }
    }

    /** Of migrations whose newest takes were frozen by a worker that was killed before it studied them. */
    private function studies(): void
    {
        $unstudied = Take::query()
            ->where('state', TakeState::Frozen)
            ->whereNull('studied_at')
            ->whereHas('extract', fn ($q) => $q->whereColumn('extracts.take_id', 'takes.id'))
            ->with('extract.source')
            ->get();
        $migrations = $unstudied->map(fn (Take $t) => $t->extract?->source?->migration_id)->filter()->unique();
        foreach ($migrations as $migration) {
            if (! Study::lock($migration)->isHeld()) {
                StudyMigration::dispatch($migration);
            }
        }
    }
}
