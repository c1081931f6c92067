<?php

namespace App\Deltas;

use App\Catalogue\Definitions;
use App\Ledger\DeltaBook;
use App\Ledger\DueBook;
use App\Ledger\DueCauses;
use App\Ledger\Spaces;
use App\Models\Load;
use App\Models\Round;
use App\Models\RoundLoad;
use Baggage\Core\Loading\Due;
use Baggage\Core\Mapping\GonePolicy;

/** What a delta would find and remove, counted before it begins. */
final class DeltaForeseen
{
    /**
     * @param  list<string>  $without  names of loads that are left out
     * @return list<array{load: string, added: int, changed: int, gone: int, untouched: int, to_map: int, would_remove: int}>
     */
    public static function of(Round $round, Delta $delta, array $without = []): array
    {
        $migration = $round->migration()->firstOrFail();
        $now = (new Definitions($migration, $round->parameters ?? []))->version();
        $causes = new DueCauses($round, new DueBook($round->laneId()), Spaces::of($migration), $now);
        $found = [];
        foreach ($round->roundLoads()->with(['ofLoad.extract', 'take'])->orderBy('id')->get() as $of) {
            $load = $of->ofLoad;
            if (in_array($load->name, $without, true)) {
                continue;
            }
            $take = self::take($of, $delta);
            $stale = array_filter($causes->changes($of), fn (?Due $due) => $due === null || $due->isStale());
            $counts = DeltaBook::foreseen($round->laneId(), $load->id, $of->take_id, $take, array_keys($stale), $delta->isFull);
            $found[] = ['load' => $load->name] + $counts + ['would_remove' => self::removes($round, $load, $take)];
        }

        return $found;
    }

    /** Records of rows delivered no more that a load would remove, where nothing refers to them. */
    private static function removes(Round $round, Load $load, int $take): int
    {
        return $load->gone === GonePolicy::Remove && ! $load->reads() ? DeltaBook::wouldRemove($round->laneId(), $load->id, $take) : 0;
    }

    private static function take(RoundLoad $of, Delta $delta): int
    {
        return $delta->keepsTakes ? $of->take_id : (int) ($of->ofLoad->extract->take_id ?? $of->take_id);
    }
}
