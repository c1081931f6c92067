<?php

namespace App\Rejects;

use App\Ledger\CauseReader;
use App\Ledger\DueBook;

/** Causes of a round, grouped alike (load, stage, code, field), with the rows a repair would free. */
final readonly class CauseList
{
    public function __construct(private CauseReader $causes, private DueBook $due)
    {
    }

    /**
     * @param  list<int>  $loads
     * @return list<CauseGroup> those first whose repair frees most rows
     */
    public function groups(array $loads): array
    {
        $due = $this->due->alike($loads);
        $groups = array_map(
            fn ($r) => new CauseGroup(
                (int) $r->load_id,
                $r->stage,
                $r->code,
                $r->field,
                $r->message,
                (int) $r->n,
                (int) $r->below,
                (int) $r->kinds,
                $r->value,
                $due["$r->load_id|$r->stage|$r->code|$r->field"] ?? 0,
            ),
            $this->causes->rejectedAlike($loads),
        );
        usort(
            $groups,
            fn (CauseGroup $a, CauseGroup $b) => [$b->freed(), $a->load, $a->code] <=> [$a->freed(), $b->load, $b->code],
        );

        return $groups;
    }

    /** @return list<\stdClass> id, value, message, own, held; the values of one group, most rows first */
    public function values(CauseGroup $group, int $most = 50): array
    {
        return $this->causes->values($group->load, $group->stage, $group->code, $group->field, $most);
    }
}
