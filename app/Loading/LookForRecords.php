<?php

namespace App\Loading;

use App\Ledger\LedgerReader;
use App\Models\Audit;
use App\Models\Round;
use App\Models\SetBack;
use App\Queueing\Job;
use App\Queueing\Kind;
use App\Targets\Ports;
use Baggage\Core\Loading\TargetUnavailable;

/** Looks whether a target that lost a round's mark still holds every record of it, by key. */
final class LookForRecords extends Job
{
    private const AT_ONCE = 2000;

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
        $round = Round::query()->with(['lane', 'target'])->find($this->round);
        if ($round === null || $round->target === null || $round->lane?->is_set_back !== SetBack::Yes) {
            return;
        }
        try {
            $gone = $this->missing($round);
        } catch (TargetUnavailable $e) {
            Audit::note($round->migration_id, "could not look for the records of $round->name", ['because' => $e->getMessage()]);

            return;
        }
        if ($gone === null) {
            $round->lane->update(['is_set_back' => SetBack::ButThere]);
        }
        Audit::note($round->migration_id, "looked for the records of $round->name", ['missing' => $gone ?? 'none']);
    }

    /** @return string|null the first record that is not there */
    private function missing(Round $round): ?string
    {
        $ports = Ports::of($round->target()->firstOrFail());
        $ledger = new LedgerReader($round);
        foreach ($round->roundLoads()->with('ofLoad.entity')->get() as $of) {
            $entity = $of->ofLoad->entity->described();
            $after = 0;
            while (($keys = $ledger->standing($of->load_id, $after, self::AT_ONCE)) !== []) {
                $after = (int) array_key_last($keys);
                $wanted = array_values(array_unique(array_map(strval(...), $keys)));
                $gone = array_diff($wanted, array_map(strval(...), array_keys($ports->records->byKeys($entity, $wanted))));
                if ($gone !== []) {
                    return "$entity->name ".reset($gone);
                }
            }
        }

        return null;
    }
}
