<?php

namespace App\Reconciling;

use App\Ledger\LedgerReader;
use App\Models\Round;
use App\Models\RoundLoad;
use App\Targets\Ports;
use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Reconciling\CountProof;
use Baggage\Core\Targets\Entity;

/** Finds the rows and records behind what does not add up, the first of each. */
final readonly class GapFinder
{
    /** Of each kind that are kept. */
    public const MOST = 1_000;

    private const AT_ONCE = 2_000;

    public function __construct(private Round $round, private LedgerReader $ledger)
    {
    }

    /**
     * @param  array<int, CountProof>  $proofs  by load
     * @return array<int, list<int>> load → rows of its feed that have no outcome although a pass came to them
     */
    public function lost(array $proofs): array
    {
        $lost = [];
        foreach ($this->round->roundLoads()->get() as $of) {
            $proof = $proofs[$of->load_id] ?? null;
            if ($proof !== null && $proof->unaccounted() !== 0) {
                $lost[$of->load_id] = $this->ledger->without($of->load_id, $of->take_id, $of->feed_rows - $proof->notReached, self::MOST);
            }
        }

        return $lost;
    }

    /**
     * @param  array<string, CountProof>  $proofs  by entity
     * @return array<string, array{gone: list<array{int, int, string}>, foreign: list<string>, before: int}> entity → load, row and target
     *                                        key of rows whose record is no longer there; keys of records no row stands for; and how
     *                                        many records there were before
     *
     * @throws TargetUnavailable
     */
    public function gaps(array $proofs): array
    {
        $gaps = [];
        $records = Ports::of($this->round->target()->firstOrFail())->records;
        $loads = $this->round->roundLoads()->with('ofLoad.entity')->orderBy('id')->get();
        foreach ($proofs as $name => $proof) {
            if (($proof->targetGap() ?? 0) === 0) {
                continue;
            }
            $of = $loads->filter(fn (RoundLoad $l) => $l->ofLoad->entity->name === $name)->values();
            $entity = $of->firstOrFail()->ofLoad->entity->described();
            $gaps[$name] = [
                'gone' => $this->gone($records, $entity, array_values($of->pluck('load_id')->all())),
                'foreign' => $this->foreign($records, $entity, $of->firstOrFail()->ofLoad->entity_id),
                'before' => (int) $proof->targetBefore,
            ];
        }

        return $gaps;
    }

    /**
     * @param  list<int>  $loads
     * @return list<array{int, int, string}>
     */
    private function gone(TargetRecords $records, Entity $entity, array $loads): array
    {
        $gone = [];
        foreach ($loads as $load) {
            $after = 0;
            while (count($gone) < self::MOST && ($keys = $this->ledger->standing($load, $after, self::AT_ONCE)) !== []) {
                $after = (int) array_key_last($keys);
                $there = $records->byKeys($entity, array_values(array_unique(array_map(strval(...), $keys))));
                foreach ($keys as $row => $key) {
                    if (! isset($there[$key])) {
                        $gone[] = [$load, $row, (string) $key];
                    }
                }
            }
        }

        return array_slice($gone, 0, self::MOST);
    }

    /** @return list<string> */
    private function foreign(TargetRecords $records, Entity $entity, int $id): array
    {
        $foreign = [];
        $after = null;
        while (
            count($foreign) < self::MOST
            && ($some = $records->after($entity, [$entity->key], $after, self::AT_ONCE)) !== []
        ) {
            $keys = array_map(strval(...), array_keys($some));
            $after = end($keys);
            $own = LedgerReader::own($this->round->laneId(), $id, $keys);
            array_push($foreign, ...array_values(array_filter($keys, fn (string $key) => ! isset($own[$key]))));
        }

        return array_slice($foreign, 0, self::MOST);
    }
}
