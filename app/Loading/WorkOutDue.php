<?php

namespace App\Loading;

use App\Catalogue\Definitions;
use App\Decisions\Following;
use App\Decisions\Numbers;
use App\Ledger\DueBook;
use App\Ledger\DueCauses;
use App\Ledger\Spaces;
use App\Models\Correction;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\Round;
use App\Queueing\Job;
use App\Queueing\Kind;
use App\Support\NamedLock;
use Baggage\Core\Loading\Due;
use Baggage\Core\Loading\PlanVersion;

/** Works out which rows are due in the rounds of a migration that have not ended, and finds the rows of corrections in newer takes. */
final class WorkOutDue extends Job
{
    public int $tries = self::AGAIN;

    public function __construct(public readonly int $migration)
    {
    }

    public function kind(): Kind
    {
        return Kind::Rows;
    }

    public function migration(): int
    {
        return $this->migration;
    }

    public function handle(): void
    {
        $migration = Migration::query()->find($this->migration);
        if ($migration === null) {
            return;
        }
        $upto = Numbers::last($migration->id);
        foreach ($migration->rounds()->whereNull('ended_as')->whereHas('passes')->with('lane')->get() as $round) {
            if ($round->lane !== null && $round->lane->due_upto < $upto && ! $round->latestPass()?->isGoing()) {
                $definitions = new Definitions($migration, $round->parameters ?? []);
                self::inRound($round, $definitions->version(), $upto);
            }
        }
        $corrected = Correction::query()->whereHas('extract.source', fn ($q) => $q->where('migration_id', $migration->id));
        foreach (Extract::query()->whereIn('id', $corrected->select('extract_id'))->with('take')->get() as $extract) {
            if ($extract->take !== null) {
                Following::complete($extract->take);
            }
        }
    }

    /** @param  PlanVersion  $now  what the next pass would go by */
    public static function inRound(Round $round, PlanVersion $now, int $upto): void
    {
        NamedLock::of("due:{$round->laneId()}")->during(function () use ($round, $now, $upto) {
            $spaces = Spaces::of($round->migration()->firstOrFail());
            $book = new DueBook($round->laneId());
            $due = new DueCauses($round, $book, $spaces, $now);
            foreach ($round->roundLoads()->with('take')->get() as $of) {
                Following::complete($of->take);
                $changes = $due->changes($of);
                $causes = $due->of($of, $changes);
                $stale = array_filter($changes, fn (?Due $d) => $d?->isStale() ?? false);
                $byRule = $stale === [] ? 0 : array_sum(array_intersect_key($book->standing($of->load_id), $stale));
                $book->put($of->load_id, $of->take_id, $causes, $byRule);
            }
            $round->lane()->update(['due_upto' => $upto]);
            if ($round->refresh()->hasEnded()) {
                // Somebody ended it meanwhile.
                $book->forget();
            }
        }, 60);
    }
}
