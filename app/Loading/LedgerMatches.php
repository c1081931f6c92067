<?php

namespace App\Loading;

use App\Targets\SqlTarget;
use App\Targets\TargetLink;
use Baggage\Core\Matching\MatchHit;
use Baggage\Core\Matching\MatchIndex;
use Baggage\Core\Matching\MatchRule;
use Baggage\Core\Targets\Entity;
use Illuminate\Support\Facades\DB;
use PDO;

/** Match keys of one round: what the target held when the round began, and what the round has written. */
final class LedgerMatches implements MatchIndex
{
    /** @param  array<string, int>  $entities name → id */
    public function __construct(private readonly int $round, private readonly array $entities)
    {
    }

    public function find(string $entity, array $keys): array
    {
        $hits = [];
        foreach (
            DB::table('match_entries')
                ->where('round_id', $this->round)
                ->where('entity_id', $this->entities[$entity])
                ->whereIn('match_key', $keys)
                ->get(['match_key', 'target_key', 'row_no']) as $row
        ) {
            $hits[$row->match_key] = new MatchHit($row->target_key, $row->row_no !== null);
        }

        return $hits;
    }

    /** Reads the match fields of the records that are in the target before anything is loaded. */
    public function readTarget(TargetLink $link, Entity $entity, MatchRule $rule): void
    {
        if (
            DB::table('match_entries')
                ->where('round_id', $this->round)
                ->where('entity_id', $this->entities[$entity->name])
                ->exists()
        ) {
            return;
        }
        $columns = implode(',', array_map(SqlTarget::name(...), array_keys($rule->on)));
        $key = SqlTarget::name($entity->key);
        $pdo = $link->pdo();
        $last = null;
        do {
            $where = $last === null ? '' : "WHERE $key > ".$pdo->quote($last);
            $found = $pdo->query(
                "SELECT $key AS baggage_key, $columns FROM ".SqlTarget::name($entity->name)
                    ." $where ORDER BY $key LIMIT 5000",
            );
            $rows = $found === false ? [] : $found->fetchAll(PDO::FETCH_ASSOC);
            $seen = [];
            foreach ($rows as $row) {
                $last = (string) $row['baggage_key'];
                $matchKey = $rule->key($row);
                if ($matchKey !== null) {
                    $seen[] = [
                        'round_id' => $this->round,
                        'entity_id' => $this->entities[$entity->name],
                        'match_key' => $matchKey,
                        'target_key' => $last,
                    ];
                }
            }
            DB::table('match_entries')->insertOrIgnore($seen);
        } while (count($rows) === 5000);
    }

    /** @param  list<array{string, string, int, int}>  $entries match key, target key, load, row */
    public function write(string $entity, array $entries): void
    {
        if ($entries === []) {
            return;
        }
        $pdo = DB::connection()->getPdo();
        $values = implode(
            ',',
            array_map(
                fn ($e) => "($this->round,{$this->entities[$entity]},".$pdo->quote($e[0]).','.$pdo->quote($e[1])
                    .",$e[2],$e[3])",
                $entries,
            ),
        );
        $pdo->exec(
            "INSERT INTO match_entries VALUES $values ON DUPLICATE KEY UPDATE load_id = COALESCE(load_id, "
                .'VALUES(load_id)), row_no = COALESCE(row_no, VALUES(row_no))',
        );
    }
}
