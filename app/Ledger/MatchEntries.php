<?php

namespace App\Ledger;

use Baggage\Core\Loading\TargetRecords;
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
        return $this->entries($entity)->whereIn('match_key', $keys)->pluck('target_key', 'match_key')->all();
    }

    /** Whether the target holds records that others made, as far as they were read. */
    public function hasOthers(string $entity): bool
    {
        return $this->reads($entity)->where('n', '>', 0)->exists();
    }

    /**
     * A row that takes a record over brings its own keys; those of rows that stood on it before lead there no more.
     *
     * @param  list<string>  $keys  target keys
     */
    public function forgetRows(string $entity, array $keys): void
    {
        if ($keys !== [] && $this->reads($entity)->exists()) {
            $this->entries($entity)->whereNotNull('item')->whereIn('target_key', $keys)->delete();
        }
    }

    /**
     * Reads the match fields of the target's records: in the first pass of the lane, and again where somebody else added or took away
     * records since, and in each delta. Within a pass it is done once, before the load writes, so what a process that died wrote is not
     * taken for others'.
     */
    public function readTarget(TargetRecords $target, Entity $entity, MatchRule $rule, int $pass, bool $again = false): void
    {
        $known = $this->reads($entity->name)->where('rule', $rule->identity())->first();
        if ($known !== null && (int) $known->pass_id === $pass) {
            return;
        }
        $is = ['n' => (int) $target->count($entity->name), 'newest' => $target->newest($entity)];
        if ($again || $known === null || (int) $known->n !== $is['n'] || $known->newest !== $is['newest']) {
            $this->readAll($target, $entity, $rule);
        }
        $of = ['lane_id' => $this->lane, 'entity_id' => $this->entities[$entity->name], 'rule' => $rule->identity()];
        DB::table('match_reads')->upsert(
            [$of + ['pass_id' => $pass] + $is],
            ['lane_id', 'entity_id', 'rule'],
            ['pass_id', 'n', 'newest'],
        );
    }

    /** Whether the target's records are still those the lane read. */
    public function isCurrent(TargetRecords $target, Entity $entity, MatchRule $rule): bool
    {
        $known = $this->reads($entity->name)->where('rule', $rule->identity())->first();

        return $known !== null && (int) $known->n === (int) $target->count($entity->name) && $known->newest === $target->newest($entity);
    }

    /**
     * What the target holds when a pass ends is what the lane knows of it, unless others wrote there meanwhile: then it reads again.
     *
     * @param  array<string, Entity>  $entities  by name
     * @param  array<string, int>  $made  records the pass made of each
     */
    public function remember(TargetRecords $target, array $entities, array $made): void
    {
        foreach ($entities as $name => $entity) {
            $reads = $this->reads($name)->get();
            $is = $reads->isEmpty() ? [] : ['n' => (int) $target->count($name), 'newest' => $target->newest($entity)];
            foreach ($reads as $read) {
                $isOurs = (int) $read->n + ($made[$name] ?? 0) === $is['n'];
                $this->reads($name)->where('rule', $read->rule)->update($isOurs ? $is : ['newest' => null]);
            }
        }
    }

    /** What the target holds is not what the lane knows of it. */
    public function readAgain(): void
    {
        DB::table('match_reads')->where('lane_id', $this->lane)->update(['newest' => null]);
    }

    private function readAll(TargetRecords $target, Entity $entity, MatchRule $rule): void
    {
        $last = null;
        do {
            $page = $target->after($entity, array_keys($rule->on), $last, self::PAGE);
            // A record a row of the lane stands on is nobody else's.
            $own = LedgerReader::own($this->lane, $this->entities[$entity->name], array_map(strval(...), array_keys($page)));
            $entries = [];
            foreach ($page as $key => $record) {
                $last = (string) $key;
                $matchKey = isset($own[$last]) ? null : $rule->key($record);
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
        $this->forgetGone($target, $entity);
    }

    /** Others' records that are no longer there are no hits. */
    private function forgetGone(TargetRecords $target, Entity $entity): void
    {
        for ($after = ''; ; $after = (string) end($keys)) {
            $keys = $this->entries($entity->name)
                ->whereNull('item')
                ->where('target_key', '>', $after)
                ->orderBy('target_key')
                ->distinct()
                ->limit(self::PAGE)
                ->pluck('target_key')
                ->all();
            if ($keys === []) {
                return;
            }
            $gone = array_diff($keys, array_map(strval(...), array_keys($target->byKeys($entity, $keys))));
            foreach (array_chunk($gone, 1000) as $some) {
                $this->entries($entity->name)->whereNull('item')->whereIn('target_key', $some)->delete();
            }
        }
    }

    private function reads(string $entity): Builder
    {
        return DB::table('match_reads')->where('lane_id', $this->lane)->where('entity_id', $this->entities[$entity]);
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
