<?php

namespace App\Profiling;

use App\Models\Take;
use App\Staging\StagedRows;
use Baggage\Core\Profiling\ColumnRenames;
use Illuminate\Support\Facades\DB;

/** One page of the rows in which a take differs from the one before it. */
final readonly class TakeChanges
{
    public const KINDS = ['added', 'changed', 'gone'];

    private const PAGE = 50;

    /** Columns shown of rows that are added or gone. */
    private const WIDTH = 12;

    /**
     * @param  list<string>  $headers  of the columns shown
     * @param  list<array{
     *     row: int, was: int|null, cells: list<string|null>, differences: list<array{header: string, was: string|null, is: string|null}>,
     * }>  $rows
     * @param  int  $width  columns there are
     * @param  int|null  $next  row after which the next page begins
     */
    private function __construct(
        public Take $take,
        public string $kind,
        public array $headers,
        public array $rows,
        public int $width,
        public ?int $next,
    ) {
    }

    public static function of(Take $take, string $kind, int $after): self
    {
        $found = DB::table('take_changes')
            ->where('take_id', $take->id)
            ->where('kind', $kind)
            ->where('row_no', '>', $after)
            ->orderBy('row_no')
            ->limit(self::PAGE + 1)
            ->get(['row_no', 'was_row']);
        $shown = $found->take(self::PAGE);
        $before = Take::query()
            ->where('extract_id', $take->extract_id)
            ->where('number', $take->compared['with'] ?? 0)
            ->first();
        $of = $kind === 'gone' ? $before ?? $take : $take;
        $headers = $of->headers();
        $order = self::order($take, $headers, $kind);
        $positions = array_map(fn ($h) => (int) array_search($h, $headers, true), $order);
        $cells = StagedRows::cells($of->id, $shown->pluck('row_no')->all());
        $compared = $kind === 'changed' ? $before : null;
        $old = $compared === null ? [] : StagedRows::cells($compared->id, $shown->pluck('was_row')->all());
        $rows = [];
        foreach ($shown as $row) {
            $now = $cells[$row->row_no] ?? [];
            $rows[] = [
                'row' => (int) $row->row_no,
                'was' => $row->was_row === null ? null : (int) $row->was_row,
                'cells' => array_map(fn ($at) => $now[$at] ?? null, $positions),
                'differences' => $compared === null
                    ? []
                    : self::differences($take, $compared, $now, $old[$row->was_row] ?? []),
            ];
        }
        $next = count($found) > self::PAGE ? (int) $shown->last()?->row_no : null;

        return new self($take, $kind, $order, $rows, count($headers), $next);
    }

    /**
     * @param  list<string>  $headers
     * @return list<string> those shown, the key's first: they say which row it is
     */
    private static function order(Take $take, array $headers, string $kind): array
    {
        $key = array_values(array_intersect($take->compared['key'] ?? [], $headers));

        return array_slice(
            [...$key, ...array_diff($headers, $key)],
            0,
            $kind === 'changed' ? max(1, count($key)) : self::WIDTH,
        );
    }

    /**
     * @param  list<string|null>  $now
     * @param  list<string|null>  $old
     * @return list<array{header: string, was: string|null, is: string|null}>
     */
    private static function differences(Take $take, Take $before, array $now, array $old): array
    {
        $found = [];
        foreach (
            ColumnRenames::common($before->headers(), $take->headers(), $take->compared['columns_renamed'] ?? []) as $n => $o
        ) {
            if (($now[$n] ?? null) !== ($old[$o] ?? null)) {
                $found[] = ['header' => $take->headers()[$n], 'was' => $old[$o] ?? null, 'is' => $now[$n] ?? null];
            }
        }
        if (count($now) !== count($old)) {
            $found[] = ['header' => 'cells in the row', 'was' => (string) count($old), 'is' => (string) count($now)];
        }

        return $found;
    }
}
