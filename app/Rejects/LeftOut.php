<?php

namespace App\Rejects;

use App\Ledger\CauseReader;
use App\Ledger\LedgerReader;
use App\Models\AuditEntry;
use App\Models\Load;
use App\Models\Round;
use Baggage\Core\Rows\Outcome;

/** Rows that are left out by what a load is defined by: outside its scope, or the same record as another row. Each with who said so. */
final class LeftOut
{
    /**
     * @param  list<int>  $loads
     * @return list<\stdClass> outcome, load_id, cause (null for merged rows), why, n, who, at
     */
    public static function lines(Round $round, array $loads): array
    {
        $lines = [];
        $of = Load::query()->whereIntegerInRaw('id', $loads)->with('entity')->get()->keyBy('id');
        foreach ((new CauseReader($round->laneId()))->excluded($loads) as $cause) {
            $load = $of[$cause->load_id];
            $lines[] = self::line(Outcome::Excluded, $load, (int) $cause->n, $cause->message, (int) $cause->id, self::by($load));
        }
        foreach ((new LedgerReader($round))->tallies() as $id => $tallies) {
            $n = $tallies[Outcome::Merged->value] ?? 0;
            if ($n > 0 && isset($of[$id])) {
                $rules = implode('", "', $of[$id]->match_rules ?? []);
                $why = "The same record as another row, by \"$rules\"";
                $lines[] = self::line(Outcome::Merged, $of[$id], $n, $why, null, self::by($of[$id]));
            }
        }

        return $lines;
    }

    private static function line(Outcome $outcome, Load $load, int $n, string $why, ?int $cause, ?AuditEntry $by): \stdClass
    {
        return (object) [
            'outcome' => $outcome->value, 'load_id' => $load->id, 'cause' => $cause, 'why' => $why, 'n' => $n,
            'who' => $by === null ? 'the plan' : $by->user->name ?? 'the command line', 'at' => $by?->at,
        ];
    }

    /** Who last changed what the load is defined by; null where it is as a plan said. */
    private static function by(Load $load): ?AuditEntry
    {
        return AuditEntry::query()
            ->where('migration_id', $load->migration_id)
            ->where('what', "changed feed, key and scope of $load->name")
            ->with('user')
            ->latest('id')
            ->first();
    }
}
