<?php

namespace App\Loading;

use Baggage\Core\Loading\CrosswalkStore;
use Baggage\Core\Loading\KeyState;
use Baggage\Core\Rows\Outcome;
use Illuminate\Support\Facades\DB;
use PDO;

/** The key crosswalk of one round, read from the ledger of outcomes. */
final class LedgerCrosswalk implements CrosswalkStore
{
    /**
     * @param  array<string, int>  $entities  name → id
     * @param  array<string, int>  $sources  code → id
     */
    public function __construct(
        private readonly int $round,
        private readonly array $entities,
        private readonly array $sources,
    ) {
    }

    public function states(string $entity, string $source, array $keys): array
    {
        if ($keys === [] || ! isset($this->entities[$entity], $this->sources[$source])) {
            return [];
        }
        $pdo = DB::connection()->getPdo();
        $list = implode(',', array_map($pdo->quote(...), $keys));
        $found = $pdo->query("SELECT legacy_key, outcome, target_key, load_id, row_no, COALESCE(root_cause_id, cause_id) FROM outcomes
            WHERE round_id = $this->round AND entity_id = {$this->entities[$entity]}
            AND source_id = {$this->sources[$source]} AND legacy_key IN ($list)");
        $states = [];
        foreach (
            $found === false ? [] : $found->fetchAll(PDO::FETCH_NUM) as [$key, $outcome, $target, $load, $row, $cause]
        ) {
            $known = $states[$key] ?? null;
            if ($known === null || ($known->targetKey === null && $target !== null)) {
                $states[$key] = new KeyState(
                    Outcome::from($outcome),
                    $target,
                    (int) $load,
                    (int) $row,
                    $cause === null ? null : (int) $cause,
                );
            }
        }

        return $states;
    }
}
