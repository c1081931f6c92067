<?php

namespace App\Ledger;

use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Matching\MatchIndex;
use Baggage\Core\Matching\MatchRule;
use Baggage\Core\Targets\Entity;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** Match keys in a dry run: what the target holds as the next pass would find it, and what the run would have made. */
final class DryMatches implements MatchIndex
{
    private const PAGE = 5000;

    /** @var array<string, bool> entity → whether the target held records of others */
    private array $others = [];

    /** @var array<string, array<string, true>> entity → target keys whose rows gave them up */
    private array $given = [];

    /**
     * @param  MatchEntries|null  $known  what the lane knows; null before its first pass
     * @param  array<string, int>  $entities  name → id
     */
    public function __construct(
        private readonly int $run,
        private readonly ?MatchEntries $known,
        private readonly ?int $lane,
        private readonly array $entities,
    ) {
    }

    public function find(string $entity, array $keys): array
    {
        $found = $this->entries($entity)->whereIn('match_key', $keys)->pluck('target_key', 'match_key')->all();
        $known = $this->known?->find($entity, $keys) ?? [];

        return $found + array_filter($known, fn (string $key) => ! isset($this->given[$entity][$key]));
    }

    public function hasOthers(string $entity): bool
    {
        return ($this->others[$entity] ?? false) || ($this->known?->hasOthers($entity) ?? false);
    }

    /** Reads the target's records where the lane does not know them as they are. */
    public function readTarget(TargetRecords $target, Entity $entity, MatchRule $rule): void
    {
        if ($this->known?->isCurrent($target, $entity, $rule) ?? false) {
            return;
        }
        for ($last = null; ;) {
            $page = $target->after($entity, array_keys($rule->on), $last, self::PAGE);
            $own = $this->lane === null
                ? []
                : LedgerReader::own($this->lane, $this->entities[$entity->name], array_map(strval(...), array_keys($page)));
            $entries = [];
            foreach ($page as $key => $record) {
                $last = (string) $key;
                $matchKey = isset($own[$last]) ? null : $rule->key($record);
                if ($matchKey !== null) {
                    $entries[$matchKey] = $last;
                }
            }
            $this->others[$entity->name] = $page !== [] || ($this->others[$entity->name] ?? false);
            $this->write($entity->name, $entries);
            if (count($page) < self::PAGE) {
                return;
            }
        }
    }

    /** @param  array<array-key, string>  $entries  match key → target key; one that is there already stays */
    public function write(string $entity, array $entries): void
    {
        foreach (array_chunk($entries, 1000, true) as $some) {
            DB::table('dry_matches')->insertOrIgnore(array_map(
                fn (string|int $match, string $key) => [
                    'dry_run_id' => $this->run, 'entity_id' => $this->entities[$entity], 'match_key' => (string) $match,
                    'target_key' => $key,
                ],
                array_keys($some),
                $some,
            ));
        }
    }

    /** @param  list<string>  $keys  target keys whose rows gave them up */
    public function forgetRows(string $entity, array $keys): void
    {
        if ($keys !== []) {
            $this->given[$entity] = ($this->given[$entity] ?? []) + array_fill_keys($keys, true);
            $this->entries($entity)->whereIn('target_key', $keys)->delete();
        }
    }

    private function entries(string $entity): Builder
    {
        return DB::table('dry_matches')->where('dry_run_id', $this->run)->where('entity_id', $this->entities[$entity]);
    }
}
