<?php

namespace App\Profiling;

use App\Staging\StagedRows;
use Baggage\Core\Reading\RawRow;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;

/** One page of the rows that speak against a key: those whose key another row has, the rows of one key together, or those without one. */
final readonly class SharedKeys
{
    private const PAGE = 60;

    /**
     * @param  list<string>  $headers  of the key's columns
     * @param  list<array{int, RawRow}>  $rows
     * @param  string|null  $next  where the next page begins
     */
    private function __construct(
        public int $id,
        public array $headers,
        public bool $blank,
        public int $count,
        public array $rows,
        public ?string $next,
    ) {
    }

    /** @return Collection<int, \stdClass> the keys a take may have */
    public static function candidates(int $take): Collection
    {
        return DB::table('key_candidates')->where('take_id', $take)->orderBy('id')->get();
    }

    /** @param  string  $from  where the page before ended, as $next gives it */
    public static function of(int $take, int $key, bool $blank, string $from): ?self
    {
        $found = DB::table('key_candidates')->where('take_id', $take)->where('id', $key)->first();
        if ($found === null) {
            return null;
        }
        [$first, $row] = array_map(intval(...), explode('-', $from)) + [0, 0];
        $numbers = DB::table('key_rows')
            ->where('key_id', $key)
            ->where('first_row', $blank ? '=' : '>', 0)
            ->whereRaw('(first_row, row_no) > (?, ?) AND first_row >= ?', [$first, $row, $first])
            ->orderBy('first_row')
            ->orderBy('row_no')
            ->limit(self::PAGE + 1)
            ->get(['first_row', 'row_no']);
        $shown = $numbers->take(self::PAGE);
        $last = $shown->last();

        return new self(
            $key,
            json_decode($found->columns, true),
            $blank,
            (int) ($blank ? $found->blank_rows : $found->duplicate_rows),
            StagedRows::asRead($take, $shown->pluck('row_no')->all()),
            $last !== null && count($numbers) > self::PAGE ? "$last->first_row-$last->row_no" : null,
        );
    }
}
