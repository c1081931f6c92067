<?php

namespace App\Profiling;

use App\Models\Take;
use App\Models\TakeState;
use App\Staging\StagedRows;
use App\Staging\ValueHashes;
use Baggage\Core\Profiling\ColumnRenames;
use Illuminate\Support\Facades\DB;

/** Holds a take against the one before: rows added, changed and gone by key, columns added, gone and renamed. */
final class TakeComparison
{
    private const OLD = 1;

    private const NEW = 2;

    public function compare(Take $take): void
    {
        $before = Take::query()
            ->where('extract_id', $take->extract_id)
            ->where('state', TakeState::Frozen)
            ->where('number', '<', $take->number)
            ->orderByDesc('number')
            ->first();
        if ($before === null) {
            return;
        }
        $columns = $this->columns($before, $take);
        $common = ColumnRenames::common($before->headers(), $take->headers(), $columns['columns_renamed']);
        $key = $this->key($take, $common);
        $hashes = ValueHashes::begin();
        DB::table('take_changes')->where('take_id', $take->id)->delete();
        $same = array_keys($common) === array_values($common)
            && count($common) === count($take->headers())
            && count($common) === count($before->headers());
        // Cells of columns only one of them has change no row; without a column in common all rows are others.
        $hashes->rows(
            $before->id,
            self::OLD,
            $key === null ? null : array_map(fn ($at) => $common[$at], $key),
            $same || $common === [] ? null : array_values($common),
        );
        $hashes->rows($take->id, self::NEW, $key, $same || $common === [] ? null : array_keys($common));
        $hashes->index();
        $counts = $key === null ? $this->byContents($take) : $this->byKey($take);
        $hashes->clear();
        $take->update([
            'compared' => [
                'with' => $before->number,
                'key' => $key === null ? null : array_map(fn ($at) => $take->headers()[$at], $key),
            ]
                + $columns
                + $counts,
        ]);
    }

    /**
     * Headers are what loads name columns by, so a renamed one breaks rules.
     *
     * @return array{columns_added: list<string>, columns_gone: list<string>, columns_renamed: array<string, string>}
     */
    private function columns(Take $before, Take $take): array
    {
        [$old, $new] = [$before->headers(), $take->headers()];
        [$added, $gone, $renamed] = [array_diff($new, $old), array_diff($old, $new), []];
        if ($added !== [] && $gone !== []) {
            $rows = fn (Take $of) => array_values((new StagedRows($of->id))->after(0, ColumnRenames::SAMPLE));
            $found = ColumnRenames::of(
                $rows($before),
                $rows($take),
                ColumnRenames::common($old, $new),
                array_keys($gone),
                array_keys($added),
            )
                ?? ColumnRenames::byFigures(
                    $before->profile ?? [],
                    $take->profile ?? [],
                    array_keys($gone),
                    array_keys($added),
                );
            foreach ($found as $o => $n) {
                $renamed[$old[$o]] = $new[$n];
            }
        }

        return [
            'columns_added' => array_values(array_diff($added, $renamed)),
            'columns_gone' => array_values(array_diff($gone, array_map(strval(...), array_keys($renamed)))),
            'columns_renamed' => $renamed,
        ];
    }

    /**
     * @param  array<int, int>  $common
     * @return list<int>|null positions in this take of the legacy key a load tells its rows by, or of the first key
     *                        without exceptions that both takes have
     */
    private function key(Take $take, array $common): ?array
    {
        $wanted = [];
        foreach (
            [
                'name' => DB::table('loads')
                    ->where('extract_id', $take->extract_id)
                    ->orderBy('id')
                    ->pluck('key_columns'),
                'header' => DB::table('key_candidates')
                    ->where('take_id', $take->id)
                    ->where('blank_rows', 0)
                    ->where('duplicate_rows', 0)
                    ->orderBy('id')
                    ->pluck('columns'),
            ] as $by => $keys
        ) {
            $at = array_flip(array_column($take->columns ?? [], $by));
            foreach ($keys as $columns) {
                $wanted[] = array_map(fn ($column) => $at[$column] ?? -1, json_decode($columns, true));
            }
        }
        foreach ($wanted as $positions) {
            if ($positions !== [] && array_filter($positions, fn ($p) => ! isset($common[$p])) === []) {
                return $positions;
            }
        }

        return null;
    }

    /** @return array{added: int, gone: int, changed: int} */
    private function byKey(Take $take): array
    {
        $only = 'SELECT ?, ?, a.row_no, NULL FROM value_hashes a WHERE a.side = ? AND NOT EXISTS (SELECT 1 '
                .'FROM value_hashes b WHERE b.side = ? AND b.key_hash = a.key_hash)';

        return [
            'added' => $this->keep($only, [$take->id, 'added', self::NEW, self::OLD]),
            'gone' => $this->keep($only, [$take->id, 'gone', self::OLD, self::NEW]),
            'changed' => $this->keep(
                'SELECT ?, ?, n.row_no, MIN(o.row_no) FROM value_hashes n JOIN value_hashes o ON o.side = ? '
                    .'AND o.key_hash = n.key_hash WHERE n.side = ? GROUP BY n.row_no HAVING SUM(o.row_hash = n.row_hash) = 0',
                [$take->id, 'changed', self::OLD, self::NEW],
            ),
        ];
    }

    /**
     * Without a key a changed row is one gone and one added. Of rows that are the same as many are left out as both takes have.
     *
     * @return array{added: int, gone: int, changed: null}
     */
    private function byContents(Take $take): array
    {
        $more = 'SELECT ?, ?, x.row_no, NULL FROM (SELECT key_hash, row_no, ROW_NUMBER() OVER (PARTITION BY key_hash
            ORDER BY row_no) AS nth FROM value_hashes WHERE side = ?) x
            LEFT JOIN (SELECT key_hash, COUNT(*) AS n FROM value_hashes WHERE side = ?
            GROUP BY key_hash) y ON y.key_hash = x.key_hash WHERE x.nth > COALESCE(y.n, 0)';

        return [
            'added' => $this->keep($more, [$take->id, 'added', self::NEW, self::OLD]),
            'gone' => $this->keep($more, [$take->id, 'gone', self::OLD, self::NEW]),
            'changed' => null,
        ];
    }

    /** @param  list<int|string>  $bindings */
    private function keep(string $select, array $bindings): int
    {
        return DB::affectingStatement("INSERT INTO take_changes (take_id, kind, row_no, was_row) $select", $bindings);
    }
}
