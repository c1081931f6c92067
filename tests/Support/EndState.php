<?php

namespace Tests\Support;

use App\Models\Round;
use Illuminate\Support\Facades\DB;

/** What a round of the demo leaves behind, without what hangs on the order of its workers: surrogate keys. */
trait EndState
{
    /** @return array<string, mixed> target contents by natural keys, outcomes, links */
    private function state(Round $round): array
    {
        return [
            'party' => $this->targetRows(
                'SELECT p.kind, p.name, p.email, p.phone, p.street, p.postcode, p.town, p.country, b.name, '
                    .'b.postcode FROM party p LEFT JOIN party b ON b.id = p.bill_to ORDER BY 2, 6, 3, 5, 8',
            ),
            'berth' => $this->targetRows(
                'SELECT h.code, b.code, b.length_m, b.metered FROM berth b JOIN harbour h ON h.id = b.harbour ORDER BY 1, 2',
            ),
            'vessel' => $this->targetRows(
                'SELECT v.name, v.registration, v.type, v.built, v.length_m, p.name, p.postcode, a.number '
                    .'FROM vessel v JOIN party p ON p.id = v.owner '
                    .'LEFT JOIN agreement a ON a.id = v.current_agreement ORDER BY 2, 1, 5, 6, 7, 4',
            ),
            'agreement' => $this->targetRows(
                'SELECT a.number, p.name, v.name, b.code, a.starts, a.ends, a.rent FROM agreement a '
                    .'JOIN party p ON p.id = a.party JOIN vessel v ON v.id = a.vessel JOIN berth b ON b.id = a.berth ORDER BY 1',
            ),
            'invoice' => $this->targetRows(
                'SELECT i.number, p.name, p.postcode, i.issued, i.total, i.text FROM invoice i JOIN party p ON p.id = i.party ORDER BY 1',
            ),
        ] + $this->ledgerState($round);
    }

    /**
     * The hash of what was sent holds keys the target gave, which hang on the order records were made in.
     *
     * @param  array<string, mixed>  $state
     * @return array<string, mixed>
     */
    private static function withoutKeys(array $state): array
    {
        $state['outcomes'] = array_map(fn (array $r) => ['sent' => $r['sent'] !== null] + $r, $state['outcomes']);

        return $state;
    }

    /** @return array<string, mixed> */
    private function ledgerState(Round $round): array
    {
        return [
            'outcomes' => array_map(
                fn ($r) => (array) $r,
                DB::select(
                    'SELECT l.name, o.item, o.legacy_key, o.outcome, o.target_key IS NULL AS bare, c.code, '
                        .'c.field, c.value, HEX(o.sent_hash) AS sent FROM outcomes o JOIN loads l ON l.id = o.load_id '
                        .'LEFT JOIN row_causes w ON w.lane_id = o.lane_id AND w.load_id = o.load_id AND w.item = o.item '
                        .'LEFT JOIN causes c ON c.id = w.cause_id WHERE o.lane_id = ? ORDER BY l.name, o.item',
                    [$round->laneId()],
                ),
            ),
            'links' => array_map(
                fn ($r) => (array) $r,
                DB::select(
                    'SELECT load_id, item, field, parent_key, state FROM links WHERE lane_id = ? ORDER BY 1, 2, 3',
                    [$round->laneId()],
                ),
            ),
            'cause tallies' => array_map(
                fn ($r) => (array) $r,
                DB::select(
                    'SELECT c.load_id, c.code, c.value, t.outcome, t.n FROM cause_tallies t JOIN causes c ON c.id = t.cause_id '
                        .'WHERE t.lane_id = ? AND t.n <> 0 ORDER BY 1, 2, 3, 4',
                    [$round->laneId()],
                ),
            ),
            'made' => DB::table('record_counters')
                ->where('lane_id', $round->laneId())
                ->orderBy('entity_id')
                ->pluck('made')
                ->map(fn ($n) => [$n])
                ->all(),
        ] + $this->figures($round);
    }

    /** @return array<string, mixed> */
    private function figures(Round $round): array
    {
        return [
            'tallies' => array_map(
                fn ($r) => (array) $r,
                DB::select('SELECT load_id, outcome, n FROM tallies WHERE lane_id = ? AND n <> 0 ORDER BY 1, 2', [
                    $round->laneId(),
                ]),
            ),
        ];
    }
}
