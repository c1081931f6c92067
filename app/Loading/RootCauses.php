<?php

namespace App\Loading;

use App\Catalogue\Definitions;
use Illuminate\Support\Facades\DB;

/** Keeps held rows pointing at the cause that holds them, after their parents failed anew for another one. */
final class RootCauses
{
    public static function refresh(int $round, Definitions $definitions): void
    {
        $migration = $definitions->migration->id;
        foreach ($definitions->loads() as $load) {
            if (
                ! DB::table('outcomes')
                    ->where('round_id', $round)
                    ->where('load_id', $load->id)
                    ->where('outcome', 'held')
                    ->exists()
            ) {
                continue;
            }
            DB::update(
                "UPDATE outcomes h JOIN causes c ON c.id = h.cause_id
                JOIN entities e ON e.migration_id = ? AND e.name = c.parent_entity
                JOIN sources s ON s.migration_id = ? AND s.code = c.parent_source
                JOIN outcomes p ON p.round_id = h.round_id AND p.entity_id = e.id AND p.source_id = s.id
                AND p.legacy_key = c.parent_key AND p.twin <> 0
                SET h.root_cause_id = COALESCE(p.root_cause_id, p.cause_id)
                WHERE h.round_id = ? AND h.load_id = ? AND h.outcome = 'held'",
                [$migration, $migration, $round, $load->id],
            );
        }
    }
}
