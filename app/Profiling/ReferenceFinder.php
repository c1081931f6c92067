<?php

namespace App\Profiling;

use App\Models\ColumnReference;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\ReferenceDecision;
use App\Staging\StagedRows;
use App\Staging\ValueHashes;
use App\Support\NumberPage;
use Baggage\Core\Profiling\ReferenceGuess;
use Illuminate\Support\Facades\DB;

/**
 * Finds what hangs on what: columns whose values are the key of another extract.
 *
 * @phpstan-type ParentColumns array{
 *     side: int, extract: Extract, headers: list<string>, positions: list<int>, facts: list<array<string, mixed>>,
 * }
 * @phpstan-type Pair array{positions: list<int>, headers: list<string>, parent: ParentColumns}
 */
final class ReferenceFinder
{
    /** Different values of a column tried first. */
    private const SAMPLE = 200;

    /** A page of the rows without a parent. */
    public static function orphans(ColumnReference $reference, int $after): NumberPage
    {
        $rows = DB::table('orphan_rows')->where('migration_id', $reference->migration_id);

        return NumberPage::of($rows->where('reference', $reference->number), $after);
    }

    public function find(Migration $migration): void
    {
        $hashes = ValueHashes::begin();
        $extracts = $migration->extracts()
            ->whereNotNull('take_id')
            ->with(['take', 'source'])
            ->orderBy('extracts.id')
            ->get();
        $parents = $this->parents($extracts->all(), $hashes);
        $hashes->index();
        DB::table('orphan_rows')->where('migration_id', $migration->id)->delete();
        $found = [];
        foreach ($extracts as $extract) {
            foreach (array_chunk($this->likely($extract, $parents), 50) as $chunk) {
                $children = ValueHashes::begin('child_hashes');
                $children->write((int) $extract->take_id, array_column($chunk, 'positions'));
                $children->index();
                foreach ($chunk as $i => $pair) {
                    $reference = $this->verified($extract, $pair, $i);
                    if ($reference !== null) {
                        $number = count($found) + 1;
                        if ($reference['orphan_rows'] > 0) {
                            $this->keepOrphans($migration, $number, $i, $pair['parent']['side']);
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
        $hashes->clear();
        $this->keep($migration, $found);
    }

    private function keepOrphans(Migration $migration, int $reference, int $child, int $parent): void
    {
        DB::statement(
            'INSERT INTO orphan_rows (migration_id, reference, row_no) SELECT ?, ?, c.row_no '
                .'FROM child_hashes c WHERE c.side = ? AND NOT EXISTS (SELECT 1 '
                .'FROM value_hashes p WHERE p.side = ? AND p.key_hash = c.key_hash)',
            [$migration->id, $reference, $child, $parent],
        );
    }

    /**
     * @param  array<int, Extract>  $extracts
     * @return list<ParentColumns>
     */
    private function parents(array $extracts, ValueHashes $hashes): array
    {
        $parents = [];
        foreach ($extracts as $extract) {
            $sides = [];
            foreach (DB::table('key_candidates')->where('extract_id', $extract->id)->orderBy('id')->get() as $key) {
                $headers = json_decode($key->columns, true);
                // A key with a few duplicates is still what others refer to.
                if (
                    ($key->duplicate_rows + $key->blank_rows) * 50 > $extract->take?->rows
                    || count($parents) + count($sides) > 180
                ) {
                    continue;
                }
                $positions = array_map(fn ($h) => (int) $extract->tidyColumns()->find($h)?->position, $headers);
                $side = count($parents) + 1;
                $sides[$side] = $positions;
                $parents[] = [
                    'side' => $side,
                    'extract' => $extract,
                    'headers' => $headers,
                    'positions' => $positions,
                    'facts' => array_map(fn ($p) => $extract->take?->profile[$p] ?? [], $positions),
                ];
            }
            if ($sides !== []) {
                $hashes->write((int) $extract->take_id, $sides);
            }
        }

        return $parents;
    }

    /**
     * Pairs of column and key worth holding against all rows: a sample of the values is mostly found.
     *
     * @param  list<ParentColumns>  $parents
     * @return list<Pair>
     */
    private function likely(Extract $extract, array $parents): array
    {
        $columns = $extract->tidyColumns();
        $sample = StagedRows::sample((int) $extract->take_id, 2_000);
        $pairs = [];
        foreach ($parents as $parent) {
            $candidates = count($parent['headers']) === 1
                ? array_map(fn ($c) => [$c->position], $columns->all)
                : ReferenceGuess::sameNames($parent['extract']->tidyColumns(), $parent['positions'], $columns);
            foreach ($candidates as $positions) {
                if (
                    $this->isPossible($extract, $positions, $parent)
                    && $this->isMostlyFound($sample, $positions, $parent['side'])
                ) {
                    $pairs[] = [
                        'positions' => $positions,
                        'headers' => array_map(fn ($p) => $columns->all[$p]->header, $positions),
                        'parent' => $parent,
                    ];
                }
            }
        }

        return $pairs;
    }

    /**
     * @param  list<int>  $positions
     * @param  ParentColumns  $parent
     */
    private function isPossible(Extract $extract, array $positions, array $parent): bool
    {
        if ($parent['extract']->id === $extract->id && $positions === $parent['positions']) {
            return false;
        }
        $names = fn (Extract $of, array $at) => array_map(fn ($p) => $of->tidyColumns()->all[$p]->name, $at);

        return ReferenceGuess::possible(
            array_map(fn ($p) => $extract->take?->profile[$p] ?? [], $positions),
            $parent['facts'],
            $names($extract, $positions),
            $names($parent['extract'], $parent['positions']),
            $parent['extract']->name,
        );
    }

    /**
     * @param  list<list<string|null>>  $sample
     * @param  list<int>  $positions
     */
    private function isMostlyFound(array $sample, array $positions, int $side): bool
    {
        $values = [];
        foreach ($sample as $cells) {
            $hash = ValueHashes::of($cells, $positions);
            if ($hash !== null) {
                $values[$hash] = true;
            }
            if (count($values) === self::SAMPLE) {
                break;
            }
        }
        if ($values === []) {
            return false;
        }
        $list = implode(',', array_map(fn ($p) => "X'$p'", array_map(strval(...), array_keys($values))));
        $hits = (int) DB::scalar(
            "SELECT COUNT(DISTINCT key_hash) FROM value_hashes WHERE side = $side AND key_hash IN ($list)",
        );

        return $hits * 10 >= count($values) * 6;
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
                .'AND NOT EXISTS (SELECT 1 FROM value_hashes p WHERE p.side = ? AND p.key_hash = c.key_hash)',
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
