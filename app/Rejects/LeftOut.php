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
    private const CHANGED = 'changed feed, key and scope of ';

    /**
     * @param  list<int>  $loads
     * @return list<\stdClass> outcome, load_id, cause (null for merged rows), why, n, who, at
     */
    public static function lines(Round $round, array $loads): array
    {
        $lines = [];
        $by = self::by($round->migration_id);
        $of = Load::query()->whereIntegerInRaw('id', $loads)->get()->keyBy('id');
        foreach ((new CauseReader($round->laneId()))->excluded($loads) as $cause) {
            $load = $of[$cause->load_id];
            $lines[] = self::line(Outcome::Excluded, $load, (int) $cause->n, $cause->message, (int) $cause->id, $by[$load->name] ?? null);
        }
        foreach ((new LedgerReader($round))->tallies() as $id => $tallies) {
            $n = $tallies[Outcome::Merged->value] ?? 0;
            if ($n > 0 && isset($of[$id])) {
                $rules = implode('", "', $of[$id]->match_rules ?? []);
                $why = "The same record as another row, by \"$rules\"";
                $lines[] = self::line(Outcome::Merged, $of[$id], $n, $why, null, $by[$of[$id]->name] ?? null);
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

    /** @return array<array-key, AuditEntry> name of a load → who last changed what it is defined by; others are as a plan said */
    private static function by(int $migration): array
    {
        $newest = AuditEntry::query()
            ->where('migration_id', $migration)
            ->where('what', 'like', self::CHANGED.'%')
            ->groupBy('what')
            ->selectRaw('MAX(id) AS id');

        return AuditEntry::query()
            ->whereIn('id', $newest)
            ->with('user')
            ->get()
            ->keyBy(fn (AuditEntry $e) => substr($e->what, strlen(self::CHANGED)))
            ->all();
    }
}
