<?php

namespace App\Profiling;

use App\Models\ColumnReference;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\ReferenceDecision;
use App\Staging\StagedRows;
use App\Staging\ValueHashes;
use App\Support\NumberPage;
use Baggage\Core\Profiling\KeyHash;
use Baggage\Core\Profiling\ReferenceGuess;
use Baggage\Core\Reading\Column;
use Illuminate\Support\Facades\DB;

/**
 * Finds what hangs on what: columns whose values are the key of another extract.
 *
 * @phpstan-type ParentColumns array{
 *     side: int, table: string, extract: Extract, headers: list<string>, positions: list<int>, names: list<string>,
 *     facts: list<array<string, mixed>>,
 * }
 * @phpstan-type Pair array{positions: list<int>, headers: list<string>, parent: ParentColumns}
 */
final class ReferenceFinder
{
    /** Different values of a column tried first. */
    private const SAMPLE = 200;

    /** Keys that may be referred to. */
    private const PARENTS = 180;

    /** A page of the rows without a parent. */
    public static function orphans(ColumnReference $reference, int $after): NumberPage
    {
        $rows = DB::table('orphan_rows')->where('migration_id', $reference->migration_id);

        return NumberPage::of($rows->where('reference', $reference->number), $after);
    }

    /** @param  array<int, KeyHashes>  $known  take → its keys, of takes that have just been looked through */
    public function find(Migration $migration, array $known): void
    {
        $extracts = $migration->extracts()
            ->whereNotNull('take_id')
            ->with(['take', 'source'])
            ->orderBy('extracts.id')
            ->get();
        $parents = $this->parents($extracts->all(), $known);
        DB::table('orphan_rows')->where('migration_id', $migration->id)->delete();
        $found = [];
        foreach ($extracts as $extract) {
            foreach (array_chunk($this->likely($extract, $parents), 50) as $chunk) {
                $children = ValueHashes::begin('child_hashes', false);
                $children->write((int) $extract->take_id, array_column($chunk, 'positions'));
                $children->index();
                foreach ($chunk as $i => $pair) {
                    $reference = $this->verified($extract, $pair, $i);
                    if ($reference !== null) {
                        $number = count($found) + 1;
                        if ($reference['orphan_rows'] > 0) {
                            $this->keepOrphans($migration, $number, $i, $pair['parent']);
                        }
                        $found[] = $reference + ['number' => $number] + [
                            'migration_id' => $migration->id,
                            'created_at' => now(),
                            'updated_at' => now(),
                        ];
                    }
                }
                $children->clear();
            }
        }
        $this->keep($migration, $found);
    }

    /** @param  ParentColumns  $parent */
    private function keepOrphans(Migration $migration, int $reference, int $child, array $parent): void
    {
        DB::statement(
            'INSERT INTO orphan_rows (migration_id, reference, row_no) SELECT ?, ?, c.row_no '
                .'FROM child_hashes c WHERE c.side = ? AND NOT EXISTS (SELECT 1 '
                ."FROM $parent[table] p WHERE p.side = ? AND p.key_hash = c.key_hash)",
            [$migration->id, $reference, $child, $parent['side']],
        );
    }

    /**
     * @param  array<int, Extract>  $extracts
     * @param  array<int, KeyHashes>  $known
     * @return list<ParentColumns>
     */
    private function parents(array $extracts, array $known): array
    {
        $parents = [];
        foreach ($extracts as $extract) {
            $keys = DB::table('key_candidates')->where('extract_id', $extract->id)->orderBy('id')->get();
            // A key with a few duplicates is still what others refer to.
            $keys = $keys->filter(fn ($k) => ($k->duplicate_rows + $k->blank_rows) * 50 <= $extract->take?->rows);
            $keys = $keys->take(max(0, self::PARENTS - count($parents)))->values()->all();
            [$columns, $profile] = [$extract->tidyColumns()->all, $extract->take->profile ?? []];
            $positions = array_map(fn ($k) => $this->positions($extract, json_decode($k->columns, true)), $keys);
            $hashes = $keys === [] ? null : $known[(int) $extract->take_id] ?? $this->hashed($extract, $keys, $positions);
            foreach ($keys as $i => $key) {
                $side = $hashes?->side($key->columns);
                if ($side !== null) {
                    $parents[] = [
                        'side' => $side,
                        'table' => $hashes->hashes->table,
                        'extract' => $extract,
                        'headers' => json_decode($key->columns, true),
                        'positions' => $positions[$i],
                        'names' => array_map(fn ($p) => $columns[$p]->name, $positions[$i]),
                        'facts' => array_map(fn ($p) => $profile[$p] ?? [], $positions[$i]),
                    ];
                }
            }
        }

        return $parents;
    }

    /**
     * @param  list<string>  $headers
     * @return list<int>
     */
    private function positions(Extract $extract, array $headers): array
    {
        $columns = $extract->tidyColumns();

        return array_map(fn ($h) => (int) $columns->find($h)?->position, $headers);
    }

    /**
     * Keys of a take that was looked through earlier.
     *
     * @param  array<int, \stdClass>  $keys
     * @param  array<int, list<int>>  $positions
     */
    private function hashed(Extract $extract, array $keys, array $positions): KeyHashes
    {
        $hashes = ValueHashes::begin("key_hashes_$extract->take_id", false);
        $hashes->write((int) $extract->take_id, $positions);
        $hashes->index();

        return new KeyHashes($hashes, array_flip(array_map(fn ($k) => (string) $k->columns, $keys)));
    }

    /**
     * Pairs of column and key worth holding against all rows: a sample of the values is mostly found.
     *
     * @param  list<ParentColumns>  $parents
     * @return list<Pair> by parent, then by column
     */
    private function likely(Extract $extract, array $parents): array
    {
        $columns = $extract->tidyColumns();
        // Once: a model reads its columns anew each time it is asked.
        $profile = $extract->take->profile ?? [];
        $wanted = [];
        foreach ($parents as $n => $parent) {
            $candidates = count($parent['headers']) === 1
                ? array_map(fn ($c) => [$c->position], $columns->all)
                : ReferenceGuess::sameNames($parent['extract']->tidyColumns(), $parent['positions'], $columns);
            foreach ($candidates as $positions) {
                if ($this->isPossible($extract, $positions, $profile, $columns->all, $parent)) {
                    $wanted[implode(' ', $positions)][$n] = $parent;
                }
            }
        }
        $sample = $wanted === [] ? [] : StagedRows::sample((int) $extract->take_id, 2_000);
        $pairs = [];
        foreach ($wanted as $at => $of) {
            $positions = array_map(intval(...), explode(' ', (string) $at));
            foreach ($this->mostlyFound($sample, $positions, $of) as $n) {
                $pairs[sprintf('%06d %s', $n, implode(' ', array_map(fn ($p) => sprintf('%06d', $p), $positions)))] = [
                    'positions' => $positions,
                    'headers' => array_map(fn ($p) => $columns->all[$p]->header, $positions),
                    'parent' => $of[$n],
                ];
            }
        }
        ksort($pairs);

        return array_values($pairs);
    }

    /**
     * @param  list<int>  $positions
     * @param  list<array<string, mixed>>  $profile  of the extract
     * @param  list<Column>  $columns  of it
     * @param  ParentColumns  $parent
     */
    private function isPossible(Extract $extract, array $positions, array $profile, array $columns, array $parent): bool
    {
        if ($parent['extract']->id === $extract->id && $positions === $parent['positions']) {
            return false;
        }

        return ReferenceGuess::possible(
            array_map(fn ($p) => $profile[$p] ?? [], $positions),
            $parent['facts'],
            array_map(fn ($p) => $columns[$p]->name, $positions),
            $parent['names'],
            $parent['extract']->name,
        );
    }

    /**
     * @param  list<list<string|null>>  $sample
     * @param  list<int>  $positions
     * @param  array<int, ParentColumns>  $parents
     * @return list<int> which of them
     */
    private function mostlyFound(array $sample, array $positions, array $parents): array
    {
        $values = [];
        foreach ($sample as $cells) {
            $hash = KeyHash::of($cells, $positions);
            if ($hash !== null) {
                $values[$hash] = true;
            }
            if (count($values) === self::SAMPLE) {
                break;
            }
        }
        $found = [];
        $list = implode(',', array_map(fn ($p) => "X'$p'", array_map(strval(...), array_keys($values))));
        foreach ($values === [] ? [] : $parents as $n => $parent) {
            $hits = (int) DB::scalar(
                "SELECT COUNT(DISTINCT key_hash) FROM $parent[table] FORCE INDEX (by_hash) "
                    ."WHERE side = $parent[side] AND key_hash IN ($list)",
            );
            if ($hits * 10 >= count($values) * 6) {
                $found[] = $n;
            }
        }

        return $found;
    }

    /**
     * @param  Pair  $pair
     * @return array<string, mixed>|null
     */
    private function verified(Extract $extract, array $pair, int $side): ?array
    {
        $parent = $pair['parent'];
        $total = (int) DB::scalar('SELECT COUNT(DISTINCT key_hash) FROM child_hashes WHERE side = ?', [$side]);
        $orphans = DB::selectOne(
            'SELECT COUNT(*) AS n, COUNT(DISTINCT c.key_hash) AS v FROM child_hashes c WHERE c.side = ? '
                ."AND NOT EXISTS (SELECT 1 FROM $parent[table] p WHERE p.side = ? AND p.key_hash = c.key_hash)",
            [$side, $parent['side']],
        );
        if ($total === 0 || ($total - $orphans->v) * 10 < $total * 8) {
            return null;
        }

        return [
            'extract_id' => $extract->id,
            'columns' => json_encode($pair['headers']),
            'parent_extract_id' => $parent['extract']->id,
            'parent_columns' => json_encode($parent['headers']),
            'values_total' => $total,
            'values_found' => $total - $orphans->v,
            'orphan_rows' => (int) $orphans->n,
        ];
    }

    /** @param  list<array<string, mixed>>  $found */
    private function keep(Migration $migration, array $found): void
    {
        $name = fn (array $r): string => implode('~', [
            $r['extract_id'],
            $r['columns'],
            $r['parent_extract_id'],
            $r['parent_columns'],
        ]);
        DB::transaction(function () use ($migration, $found, $name) {
            $references = DB::table('column_references')->where('migration_id', $migration->id);
            $decided = [];
            foreach ($references->clone()->where('decision', '<>', ReferenceDecision::Found)->get() as $old) {
                $decided[$name((array) $old)] = $old;
            }
            $references->clone()->delete();
            foreach (ReferenceGuess::best($found) as $reference) {
                $old = $decided[$name($reference)] ?? null;
                unset($decided[$name($reference)]);
                DB::table('column_references')->insert(
                    $reference + ['decision' => $old->decision ?? ReferenceDecision::Found, 'user_id' => $old->user_id ?? null],
                );
            }
            // What a person stated stays, also where the data no longer bears it out.
            foreach ($decided as $old) {
                DB::table('column_references')->insert(['number' => null] + array_diff_key((array) $old, ['id' => 0]));
            }
            DB::table('orphan_rows')
                ->where('migration_id', $migration->id)
                ->whereNotIn('reference', $references->clone()->whereNotNull('number')->pluck('number'))
                ->delete();
        });
    }
}
