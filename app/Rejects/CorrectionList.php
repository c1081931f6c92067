<?php

namespace App\Rejects;

use App\Models\Correction;
use App\Models\Migration;
use Baggage\Core\Rows\CorrectionState;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** Corrections that did not carry into the newest take of their extract, each waiting for a decision. */
final class CorrectionList
{
    /** @return list<\stdClass> id, extract, source, header, whole, old_value, new_value, found, state, row_no, reason, who, take, key */
    public static function waiting(Migration $migration, int $most): array
    {
        $found = self::query($migration)
            ->leftJoin('users as u', 'u.id', '=', 'c.user_id')
            ->join('row_keys as k', 'k.id', '=', 'c.row_key_id')
            ->orderBy('p.state')
            ->orderBy('c.id')
            ->limit($most)
            ->get([
                'c.id', 'c.header', 'c.whole', 'c.old_value', 'c.new_value', 'c.reason', 'p.found', 'p.state', 'p.row_no', 'u.name as who',
                'e.name as extract', 's.code as source', 't.number as take', 'k.values as key', 'k.place',
            ])
            ->all();
        foreach ($found as $line) {
            $line->state = CorrectionState::from($line->state);
            $line->key = $line->key === null || $line->place !== null ? null : implode(' ', (array) json_decode($line->key, true));
        }

        return $found;
    }

    public static function countWaiting(Migration $migration): int
    {
        return self::query($migration)->count();
    }

    /**
     * @param  list<int>  $ids
     * @return list<Correction> those of them that are the migration's
     */
    public static function among(Migration $migration, array $ids): array
    {
        return array_values(Correction::query()
            ->whereIntegerInRaw('id', $ids)
            ->whereHas('extract.source', fn ($q) => $q->where('migration_id', $migration->id))
            ->orderBy('id')
            ->get()
            ->all());
    }

    private static function query(Migration $migration): Builder
    {
        $waiting = array_diff(array_column(CorrectionState::cases(), 'value'), [CorrectionState::Carried->value]);

        // From the few that wait, whatever the server believes of how many there are.
        return DB::query()
            ->fromRaw(
                'sources s STRAIGHT_JOIN extracts e ON e.source_id = s.id STRAIGHT_JOIN takes t ON t.id = e.take_id
                STRAIGHT_JOIN correction_places p FORCE INDEX (waiting) ON p.take_id = e.take_id
                STRAIGHT_JOIN corrections c FORCE INDEX (PRIMARY) ON c.id = p.correction_id AND c.extract_id = e.id',
            )
            ->where('s.migration_id', $migration->id)
            ->whereIn('p.state', $waiting)
            ->where('c.ended', 0);
    }
}
