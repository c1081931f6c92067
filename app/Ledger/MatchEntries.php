<?php

namespace App\Ledger;

use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Matching\MatchHit;
use Baggage\Core\Matching\MatchIndex;
use Baggage\Core\Matching\MatchRule;
use Baggage\Core\Targets\Entity;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** Match keys of one lane: what the target held when it began, and what it has written. */
final readonly class MatchEntries implements MatchIndex
{
    private const PAGE = 5000;

    /** @param  array<string, int>  $entities name → id */
    public function __construct(private int $lane, private array $entities)
    {
    }

    public function find(string $entity, array $keys): array
    {
        $hits = [];
        $found = $this->entries($entity)->whereIn('match_key', $keys)->get(['match_key', 'target_key', 'item']);
        foreach ($found as $entry) {
            $hits[$entry->match_key] = new MatchHit($entry->target_key, $entry->item !== null);
        }

        return $hits;
    }

    /** Reads the match fields of the records that are in the target before anything is loaded. */
    public function readTarget(TargetRecords $target, Entity $entity, MatchRule $rule): void
    {
        if ($this->entries($entity->name)->exists()) {
            return;
        }
        $last = null;
        do {
            $page = $target->after($entity, array_keys($rule->on), $last, self::PAGE);
            $entries = [];
            foreach ($page as $key => $record) {
                $last = (string) $key;
                $matchKey = $rule->key($record);
                if ($matchKey !== null) {
                    $entries[] = [
                        'lane_id' => $this->lane,
                        'entity_id' => $this->entities[$entity->name],
                        'match_key' => $matchKey,
                        'target_key' => $last,
                    ];
                }
            }
            DB::table('match_entries')->insertOrIgnore($entries);
        } while (count($page) === self::PAGE);
    }

    /** @param  list<MatchEntry>  $entries */
    public function write(string $entity, array $entries): void
    {
        if ($entries === []) {
            return;
        }
        $pdo = DB::connection()->getPdo();
        $values = implode(
            ',',
            array_map(
                fn (MatchEntry $e) => "($this->lane,{$this->entities[$entity]},".$pdo->quote($e->key).','
                    .$pdo->quote($e->targetKey).",$e->load,$e->row)",
                $entries,
            ),
        );
        $pdo->exec(
            "INSERT INTO match_entries VALUES $values ON DUPLICATE KEY UPDATE load_id = COALESCE(load_id, "
                .'VALUES(load_id)), item = COALESCE(item, VALUES(item))',
        );
    }

    private function entries(string $entity): Builder
    {
        return DB::table('match_entries')->where('lane_id', $this->lane)->where('entity_id', $this->entities[$entity]);
    }
}
