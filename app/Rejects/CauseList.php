<?php

namespace App\Rejects;

use App\Models\Round;
use Illuminate\Support\Facades\DB;

/** Causes of a round, grouped alike (load, stage, code, field), with the rows a repair would free. */
final class CauseList
{
    public function __construct(private readonly Round $round)
    {
    }

    /**
     * @param  list<int>  $loads
     * @return list<CauseGroup> those first whose repair frees most rows
     */
    public function groups(array $loads): array
    {
        if ($loads === []) {
            return [];
        }
        $in = implode(',', array_map(intval(...), $loads));
        $own = DB::select(
            "SELECT c.load_id, c.stage, c.code, c.field, MIN(c.message) AS message, COUNT(*) AS n, COUNT(DISTINCT
                c.id) AS kinds, MIN(c.value) AS value
            FROM outcomes o JOIN causes c ON c.id = o.cause_id
            WHERE o.round_id = ? AND o.load_id IN ($in) AND o.outcome = 'rejected' GROUP BY c.load_id, c.stage, c.code, c.field",
            [$this->round->id],
        );
        $below = $this->below($in);
        $groups = array_map(
            fn ($r) => new CauseGroup(
                (int) $r->load_id,
                $r->stage,
                $r->code,
                $r->field,
                $r->message,
                (int) $r->n,
                $below["$r->load_id|$r->stage|$r->code|$r->field"] ?? 0,
                (int) $r->kinds,
                $r->value,
            ),
            $own,
        );
        usort(
            $groups,
            fn (CauseGroup $a, CauseGroup $b) => [$b->freed(), $a->load, $a->code] <=> [$a->freed(), $b->load, $b->code],
        );

        return $groups;
    }

    /** @return array<string, int> load, stage, code and field of a cause → rows held below it */
    private function below(string $loads): array
    {
        $held = DB::select(
            "SELECT c.load_id, c.stage, c.code, c.field, COUNT(*) AS n FROM outcomes o JOIN causes c ON c.id = o.root_cause_id
            WHERE o.round_id = ? AND o.outcome = 'held' AND c.load_id IN ($loads) GROUP BY c.load_id, c.stage, c.code, c.field",
            [$this->round->id],
        );
        $below = [];
        foreach ($held as $row) {
            $below["$row->load_id|$row->stage|$row->code|$row->field"] = (int) $row->n;
        }

        return $below;
    }

    /** @return list<\stdClass> id, value, message, own, held; the values of one group, most rows first */
    public function values(CauseGroup $group, int $limit = 50): array
    {
        return DB::select(
            "SELECT c.id, c.value, c.message, c.parent_entity, c.parent_source, c.parent_key, COUNT(*) AS own,
                (SELECT COUNT(*) FROM outcomes h WHERE h.root_cause_id = c.id AND h.outcome = 'held') AS held
            FROM outcomes o JOIN causes c ON c.id = o.cause_id
            WHERE o.round_id = ? AND o.load_id = ? AND o.outcome = 'rejected' AND c.stage = ? AND c.code = ? AND c.field <=> ?
            GROUP BY c.id, c.value, c.message, c.parent_entity, c.parent_source, c.parent_key ORDER BY own DESC, c.value LIMIT $limit",
            [$this->round->id, $group->load, $group->stage, $group->code, $group->field],
        );
    }

    /**
     * @param  list<int>  $loads
     * @return list<\stdClass> parents that hold rows, most rows first
     */
    public function held(array $loads, int $limit = 50): array
    {
        if ($loads === []) {
            return [];
        }
        $in = implode(',', array_map(intval(...), $loads));

        return DB::select(
            "SELECT c.id, c.load_id, c.parent_entity, c.parent_source, c.parent_key, c.code, r.message AS because,
                COUNT(*) AS n, MIN(o.row_no) AS first_row
            FROM outcomes o JOIN causes c ON c.id = o.cause_id LEFT JOIN causes r ON r.id = o.root_cause_id
            WHERE o.round_id = ? AND o.load_id IN ($in) AND o.outcome = 'held'
            GROUP BY c.id, c.load_id, c.parent_entity, c.parent_source, c.parent_key, c.code, r.message ORDER BY n DESC, c.id LIMIT $limit",
            [$this->round->id],
        );
    }

    /** @return list<\stdClass> deferred references that wait for their parent */
    public function waitingLinks(): array
    {
        return DB::select(
            "SELECT l.load_id, l.field, COUNT(*) AS n FROM links l WHERE l.round_id = ? AND l.state = 'waiting' "
                .'GROUP BY l.load_id, l.field ORDER BY n DESC',
            [$this->round->id],
        );
    }
}
