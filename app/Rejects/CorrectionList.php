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
        return DB::table('corrections as c')
            ->join('extracts as e', 'e.id', '=', 'c.extract_id')
            ->join('sources as s', 's.id', '=', 'e.source_id')
            ->join('takes as t', 't.id', '=', 'e.take_id')
            ->join('correction_places as p', fn ($j) => $j
                ->on('p.correction_id', '=', 'c.id')
                ->on('p.take_id', '=', 'e.take_id'))
            ->where('s.migration_id', $migration->id)
            ->where('c.ended', 0)
            ->where('p.state', '<>', CorrectionState::Carried->value);
    }
}
