<?php

namespace App\Reconciling;

use App\Ledger\LedgerReader;
use App\Ledger\Links;
use App\Ledger\WaiverBook;
use App\Models\Round;
use App\Queueing\Job;
use App\Queueing\Kind;
use App\Support\Unforeseen;
use App\Support\WorkerPresence;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Reconciling\CountProof;

/** Counts a round: every line of its ledger, and the records in its target. */
final class CountRound extends Job
{
    public int $tries = self::AGAIN;

    public function __construct(public readonly int $round)
    {
    }

    public function kind(): Kind
    {
        return Kind::Rows;
    }

    public function migration(): ?int
    {
        return Round::query()->find($this->round)?->migration_id;
    }

    public function handle(): void
    {
        $round = Round::query()->with('lane')->find($this->round);
        $asked = CountBook::asked($this->round);
        // While a pass writes, ledger and target are never counted at one moment; when it ends it is asked for again.
        if ($round === null || $asked === null || $round->lane === null || $round->latestPass()?->isGoing()) {
            return;
        }
        $presence = WorkerPresence::of("count:$round->id");
        $presence->enter();
        try {
            self::count($round, $asked);
        } catch (\Throwable $e) {
            CountBook::failed($round->id, Unforeseen::said('Counting ended', $e));
        } finally {
            $presence->leave();
        }
    }

    public function failed(?\Throwable $e): void
    {
        CountBook::failed($this->round, 'The worker ended while it was counting. Count again.');
    }

    /** @return array<string, CountProof> entity → proof, with what the target holds */
    public static function count(Round $round, string $asked): array
    {
        $proofs = Proofs::of($round);
        $loads = $proofs->loads();
        $entities = $proofs->entities();
        $links = [];
        foreach ((new Links($round->laneId()))->counts() as $link) {
            $links["$link->load_id $link->field"] = (int) $link->made;
        }
        $finder = new GapFinder($round, new LedgerReader($round));
        $gaps = [];
        try {
            $gaps = $proofs->targetError === null ? $finder->gaps($entities) : [];
        } catch (TargetUnavailable $e) {
            $proofs->targetError = $e->getMessage();
        }
        CountBook::keep(
            $round->id,
            $asked,
            $loads,
            $entities,
            $links,
            WaiverBook::toConfirm($round),
            $finder->lost($loads),
            $gaps,
            $proofs->targetError,
        );

        return $entities;
    }
}
