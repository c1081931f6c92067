<?php

namespace App\Deltas;

use App\Catalogue\Definitions;
use App\Ledger\DeltaBook;
use App\Ledger\DueBook;
use App\Ledger\DueCauses;
use App\Ledger\Spaces;
use App\Models\Round;
use App\Models\RoundLoad;
use App\Models\Take;
use Baggage\Core\Loading\Due;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Mapping\GonePolicy;
use Baggage\Core\Mapping\LoadDefinition;

/** What a delta would find and remove, counted before it begins. */
final readonly class DeltaForeseen
{
    private function __construct(private Round $round, private DueCauses $causes, private Delta $delta)
    {
    }

    /** @param  PlanVersion  $now  what the delta would go by */
    public static function by(Round $round, PlanVersion $now, Delta $delta): self
    {
        return new self($round, new DueCauses($round, new DueBook($round->laneId()), Spaces::of($round->migration), $now), $delta);
    }

    /**
     * Records of rows delivered no more that a delta would remove, where nothing refers to them.
     *
     * @param  list<int>  $without  loads that are left out
     */
    public static function removals(Round $round, Delta $delta, array $without = []): int
    {
        $now = (new Definitions($round->migration, $round->parameters ?? []))->version();
        $counts = self::by($round, $now, $delta);
        $all = 0;
        foreach ($round->roundLoads()->with(['ofLoad.extract', 'take'])->get() as $of) {
            if (! in_array($of->load_id, $without, true)) {
                $all += $counts->removes($now->load($of->load_id), $of, $delta->takeOf($of));
            }
        }

        return $all;
    }

    /**
     * @param  RoundLoad  $to  with the take that counts now
     * @param  int  $from  the take the round works on
     * @param  list<int>  $stale  passes that went by other rules
     * @return array{added: int, changed: int, gone: int, untouched: int, to_map: int}
     */
    public function of(RoundLoad $to, int $from, array $stale): array
    {
        return DeltaBook::foreseen($this->round->laneId(), $to->load_id, $from, $to->take_id, $stale, $this->delta->isFull);
    }

    /** @param  int|null  $take  the one that counts now, if it is another than the round load's */
    public function removes(LoadDefinition $load, RoundLoad $of, ?int $take = null): int
    {
        return $load->gone === GonePolicy::Remove && ! $load->reads()
            ? DeltaBook::wouldRemove($this->round->laneId(), $load->id, $take ?? $of->take_id)
            : 0;
    }

    /** @return list<int> passes that went by other rules, as far as the load reads them */
    public function stale(RoundLoad $of): array
    {
        return array_keys(array_filter($this->causes->changes($of), fn (?Due $due) => $due === null || $due->isStale()));
    }

    /** Whether the columns of a take are others than those of the one the round works on. */
    public function areOtherColumns(int $from, RoundLoad $to): bool
    {
        return Take::query()->find($from)?->headers() !== $to->take->headers();
    }
}
