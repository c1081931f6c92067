<?php

namespace App\Ledger;

use App\Support\BulkRows;
use Baggage\Core\Loading\KeyState;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Facades\DB;

/** The rows of a dry run that would fare otherwise than the ledger says, apart from it. */
final class DryRows
{
    private const COLUMNS
        = '(dry_run_id, load_id, item, space_id, legacy_key, stands, outcome, target_key, cause_id, root_cause_id, was, changes)';

    /** Letters of a value that are kept of what would change. */
    private const SHOWN = 120;

    /** @var array<string, int> hash → number of a cause of this run */
    private array $causes = [];

    public function __construct(public readonly int $run)
    {
    }

    /**
     * @param  non-empty-list<string>  $keys
     * @return list<array{string, KeyState}> legacy key and what is known of it
     */
    public function states(int $space, array $keys): array
    {
        $pdo = DB::connection()->getPdo();
        $found = $pdo->query(
            "SELECT d.legacy_key, d.outcome, d.target_key, d.load_id, d.item, d.cause_id, d.root_cause_id, c.message, d.was
            FROM dry_rows d FORCE INDEX (crosswalk) LEFT JOIN dry_causes c ON c.id = d.cause_id
            WHERE d.dry_run_id = $this->run AND d.space_id = $space
            AND d.legacy_key IN (".implode(',', array_map($pdo->quote(...), $keys)).')',
        );
        $states = [];
        foreach ($found === false ? [] : $found->fetchAll(\PDO::FETCH_NUM) as $line) {
            [$key, $outcome, $target, $load, $row, $cause, $root, $why, $was] = $line;
            // A cause of the run is told from those of the ledger by its sign.
            $root = $root ?? ($cause === null ? null : -$cause);
            $isGone = $target !== null && in_array($outcome, LedgerReader::BESIDE, true);
            $states[] = [(string) $key, new KeyState(
                self::asItStood($outcome, $target, $was), $target, (int) $load, (int) $row, $root === null ? null : (int) $root, $why,
                $isGone, $isGone && $outcome === Outcome::Withdrawn->value,
            )];
        }

        return $states;
    }

    /** A row that stands on a record and says something else now leaves that what it was. */
    private static function asItStood(string $outcome, ?string $target, ?string $was): Outcome
    {
        $isOther = $target !== null && in_array($outcome, [...LedgerReader::OLDER, ...LedgerReader::BESIDE], true);

        return Outcome::from(match (true) {
            ! $isOther => $outcome,
            in_array($was, LedgerReader::STANDS, true) => $was,
            default => Outcome::Loaded->value,
        });
    }

    /**
     * @param  list<array{int, int}>  $rows  load and number of each
     * @return array<string, true> "load row" of those the run says something of
     */
    public function among(array $rows): array
    {
        $of = $found = [];
        foreach ($rows as [$load, $row]) {
            $of[$load][] = $row;
        }
        foreach ($of as $load => $items) {
            foreach ($this->rows($load)->whereIntegerInRaw('item', $items)->pluck('item') as $item) {
                $found["$load $item"] = true;
            }
        }

        return $found;
    }

    /**
     * @param  list<int>  $spaces
     * @param  list<string>  $keys  target keys
     * @return list<array{string, string, int, int, string, bool}> target key, outcome, load, row, legacy key of those that stand on
     *                                                             records, and whether they are delivered no more
     */
    public function holders(array $spaces, array $keys): array
    {
        return DB::table('dry_rows')
            ->where('dry_run_id', $this->run)
            ->whereIn('target_key', $keys)
            ->whereIntegerInRaw('space_id', $spaces)
            ->where('stands', 1)
            ->where('outcome', '<>', Outcome::Merged->value)
            ->get(['target_key', 'outcome', 'load_id', 'item', 'legacy_key', 'was'])
            ->map(fn ($r) => [
                (string) $r->target_key, self::asItStood($r->outcome, $r->target_key, $r->was)->value, (int) $r->load_id, (int) $r->item,
                (string) $r->legacy_key, in_array($r->outcome, LedgerReader::BESIDE, true),
            ])
            ->values()
            ->all();
    }

    /**
     * Keeps what would become of rows; what was said of them before is forgotten.
     *
     * @param  list<int>  $rows  all that were tried
     * @param  list<Journey>  $differ  those of them that would fare otherwise
     * @param  array<int, \stdClass>  $before  what the ledger says, by row
     */
    public function put(int $load, int $space, bool $reads, array $rows, array $differ, array $before): void
    {
        $ids = $this->ids($load, array_values(array_filter(array_map(fn (Journey $j) => $j->cause, $differ))));
        $lines = '';
        foreach ($differ as $j) {
            // One that fails now keeps its record.
            $older = $j->keepsOlder() && ! $reads ? $j->standing : null;
            $target = $older->targetKey ?? $j->targetKey;
            $changes = self::changes($j);
            $lines .= BulkRows::line([
                $this->run,
                $load,
                $j->row,
                $space,
                $older->legacyKey ?? $j->legacyKey,
                $target === null || $reads ? null : 1,
                ($j->outcome ?? Outcome::Pending)->value,
                $target,
                $j->cause === null ? null : $ids[$j->cause->identity()],
                $j->rootCause,
                ($before[$j->row] ?? null)?->outcome,
                $changes === [] ? null : json_encode($changes, JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE),
            ]);
        }
        DB::transaction(function () use ($load, $rows, $lines, $differ) {
            foreach (array_chunk($rows, 5000) as $some) {
                $this->rows($load)->whereIntegerInRaw('item', $some)->delete();
            }
            BulkRows::load(DB::connection(), 'dry_rows', self::COLUMNS, $lines, count($differ));
        });
    }

    /**
     * What a record would say otherwise than it does.
     *
     * @return array<string, array{string|null, string|null}> field → now and then, cut where they are long
     */
    public static function changes(Journey $journey): array
    {
        $changes = [];
        $cut = fn (?string $value) => $value === null ? null : mb_strimwidth($value, 0, self::SHOWN, '…');
        foreach ($journey->before === [] || $journey->outcome === Outcome::Removed ? [] : $journey->values as $field => $value) {
            $isKept = in_array($field, $journey->others ?? [], true);
            if (! $isKept && array_key_exists($field, $journey->before) && $journey->before[$field] !== $value) {
                $changes[$field] = [$cut($journey->before[$field]), $cut($value)];
            }
        }

        return $changes;
    }

    /**
     * Rows that give up what they stand on wait again.
     *
     * @param  list<\stdClass>  $lines  load_id, row_no, space_id, legacy_key, outcome
     */
    public function displace(array $lines): void
    {
        $beside = "('".implode("', '", LedgerReader::BESIDE)."')";
        foreach ($lines as $line) {
            // One that is delivered no more has nothing to wait for.
            $isGone = in_array($line->outcome, LedgerReader::BESIDE, true);
            DB::table('dry_rows')->upsert([[
                'dry_run_id' => $this->run, 'load_id' => $line->load_id, 'item' => $line->row_no, 'space_id' => $line->space_id,
                'legacy_key' => $line->legacy_key, 'outcome' => ($isGone ? Outcome::Withdrawn : Outcome::Pending)->value,
                'was' => $line->outcome,
            ]], ['dry_run_id', 'load_id', 'item'], [
                'outcome' => DB::raw("IF(outcome IN $beside, 'withdrawn', 'pending')"), 'stands' => null, 'target_key' => null,
                'cause_id' => null, 'root_cause_id' => null,
            ]);
        }
    }

    /**
     * @param  list<string>  $keys  target keys
     * @return list<\stdClass> load_id, row_no, space_id, legacy_key, outcome of all rows of the entity with one of them
     */
    public function withTargets(int $entity, array $keys): array
    {
        return $keys === [] ? [] : DB::table('dry_rows as d')
            ->join('loads as l', fn ($j) => $j->on('l.id', '=', 'd.load_id')->where('l.entity_id', $entity))
            ->where('d.dry_run_id', $this->run)
            ->whereIn('d.target_key', $keys)
            ->get(['d.load_id', 'd.item as row_no', 'd.space_id', 'd.legacy_key', 'd.was as outcome'])
            ->all();
    }

    /**
     * @param  array<int, string>  $keys  legacy keys of rows that nobody worked on yet, by number
     */
    public function announce(int $load, int $space, array $keys): void
    {
        $lines = '';
        foreach ($keys as $row => $key) {
            $lines .= BulkRows::line([
                $this->run, $load, $row, $space, $key, null, Outcome::Pending->value, null, null, null, null, null,
            ]);
        }
        BulkRows::loadNew(DB::connection(), 'dry_rows', self::COLUMNS, $lines);
    }

    /** @return list<\stdClass> load_id, was, outcome, n */
    public function summary(): array
    {
        return DB::table('dry_rows')
            ->where('dry_run_id', $this->run)
            ->groupBy('load_id', 'was', 'outcome')
            ->selectRaw('load_id, was, outcome, COUNT(*) AS n')
            ->orderBy('load_id')
            ->get()
            ->all();
    }

    /** @return list<\stdClass> load_id, outcome, stage, code, field, message, value, n, kinds: why rows would not go through */
    public function causes(int $most): array
    {
        return DB::table('dry_rows as d')
            ->join('dry_causes as c', 'c.id', '=', 'd.cause_id')
            ->where('d.dry_run_id', $this->run)
            ->groupBy('d.load_id', 'd.outcome', 'c.stage', 'c.code', 'c.field')
            ->selectRaw('d.load_id, d.outcome, c.stage, c.code, c.field, MIN(c.message) AS message, MIN(c.value) AS value')
            ->selectRaw('COUNT(*) AS n, COUNT(DISTINCT c.id) AS kinds')
            ->orderByDesc('n')
            ->limit($most)
            ->get()
            ->all();
    }

    /**
     * @param  array{int, int}|null  $after  load and row of the last line before
     * @param  string|null  $outcome  what they would become; null: anything
     * @param  string|null  $what  of a delta: those that were added, that change their record, that are gone
     * @return list<\stdClass> load_id, row_no, legacy_key, was, outcome, changes in JSON, field, value, message
     */
    public function page(?array $after, ?string $outcome, ?int $load, int $most, ?string $what = null): array
    {
        return DB::table('dry_rows as d')
            ->leftJoin('dry_causes as c', 'c.id', '=', 'd.cause_id')
            ->where('d.dry_run_id', $this->run)
            ->when($outcome !== null, fn (Builder $q) => $q->where('d.outcome', $outcome))
            ->when($load !== null, fn (Builder $q) => $q->where('d.load_id', $load))
            ->when($what === 'added', fn (Builder $q) => $q->whereNull('d.was'))
            ->when($what === 'changed', fn (Builder $q) => $q->whereNotNull('d.changes'))
            ->when($what === 'gone', fn (Builder $q) => $q->whereIn('d.outcome', LedgerReader::BESIDE))
            ->when($after !== null, fn (Builder $q) => $q->whereRaw('(d.load_id, d.item) > (?, ?)', $after))
            ->orderBy('d.load_id')
            ->orderBy('d.item')
            ->limit($most)
            ->get([
                'd.load_id', 'd.item as row_no', 'd.legacy_key', 'd.was', 'd.outcome', 'd.changes', 'c.code', 'c.field', 'c.value',
                'c.message',
            ])
            ->all();
    }

    public function forget(): void
    {
        foreach (['dry_rows', 'dry_causes', 'dry_matches', 'dry_tries'] as $table) {
            do {
                $n = DB::table($table)->where('dry_run_id', $this->run)->limit(20_000)->delete();
            } while ($n === 20_000);
        }
        $this->causes = [];
    }

    /**
     * @param  list<Cause>  $causes
     * @return array<string, int> identity → number
     */
    private function ids(int $load, array $causes): array
    {
        $all = [];
        foreach ($causes as $cause) {
            $all[CauseBook::hash($cause)] = $cause;
        }
        $this->causes = count($this->causes) > 20_000 ? [] : $this->causes;
        foreach (array_chunk(array_diff_key($all, $this->causes), 500, true) as $some) {
            DB::table('dry_causes')->insertOrIgnore(array_map(
                fn (string|int $hash, Cause $c) => [
                    'dry_run_id' => $this->run, 'load_id' => $load, 'stage' => $c->stage->value, 'code' => $c->code,
                    'field' => $c->field, 'value' => CauseBook::shown($c), 'message' => mb_substr($c->message, 0, 500), 'hash' => $hash,
                ],
                array_keys($some),
                $some,
            ));
            $this->causes += DB::table('dry_causes')
                ->where('dry_run_id', $this->run)
                ->where('load_id', $load)
                ->whereIn('hash', array_map(strval(...), array_keys($some)))
                ->pluck('id', 'hash')
                ->map(fn ($id) => (int) $id)
                ->all();
        }
        $ids = [];
        foreach ($all as $hash => $cause) {
            $ids[$cause->identity()] = $this->causes[$hash];
        }

        return $ids;
    }

    private function rows(int $load): Builder
    {
        return DB::table('dry_rows')->where('dry_run_id', $this->run)->where('load_id', $load);
    }
}
