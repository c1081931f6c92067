<?php

namespace App\Staging;

use App\Models\Take;
use App\Profiling\StagedPrints;
use Illuminate\Support\Facades\DB;

/** Holds a take against the one before: rows added, changed and gone by key, columns added, gone and renamed. */
final class TakeComparison
{
    private const EXAMPLES = 50;

    public function compare(Take $take): void
    {
        $before = Take::query()->where('extract_id', $take->extract_id)->where('state', 'frozen')->where('number', '<', $take->number)->orderByDesc('number')->first();
        if ($before === null) {
            return;
        }
        $columns = $this->columns($before, $take);
        $key = $this->key($take, $before);
        $take->update(['compared' => ['with' => $before->number, 'key' => $key['headers'] ?? null] + $columns + ($key === null ? $this->byContents($before, $take) : $this->byKey($before, $take, $key))]);
    }

    /**
     * Headers are what loads name columns by, so a renamed one breaks rules: it is found by its values' extremes and number.
     *
     * @return array{columns_added: list<string>, columns_gone: list<string>, columns_renamed: array<string, string>}
     */
    private function columns(Take $before, Take $take): array
    {
        $old = array_column($before->columns ?? [], 'header');
        $new = array_column($take->columns ?? [], 'header');
        [$added, $gone, $renamed] = [array_diff($new, $old), array_diff($old, $new), []];
        foreach ($gone as $o => $was) {
            foreach ($added as $n => $is) {
                $a = $before->profile[$o] ?? [];
                $b = $take->profile[$n] ?? [];
                $same = array_filter(['distinct', 'smallest', 'largest', 'longest'], fn ($what) => ($a[$what] ?? null) === ($b[$what] ?? null));
                if (count($same) >= 3 && ! in_array($is, $renamed, true)) {
                    $renamed[$was] = $is;
                    break;
                }
            }
        }

        return ['columns_added' => array_values(array_diff($added, $renamed)), 'columns_gone' => array_values(array_diff($gone, array_map(strval(...), array_keys($renamed)))), 'columns_renamed' => $renamed];
    }

    /** @return array{headers: list<string>, old: list<int>, new: list<int>}|null the first key without exceptions that both takes have */
    private function key(Take $take, Take $before): ?array
    {
        foreach (DB::table('key_candidates')->where('take_id', $take->id)->where('blank_rows', 0)->where('duplicate_rows', 0)->orderBy('id')->pluck('columns') as $columns) {
            $headers = json_decode($columns, true);
            $old = array_map(fn ($h) => array_search($h, array_column($before->columns ?? [], 'header'), true), $headers);
            $new = array_map(fn ($h) => array_search($h, array_column($take->columns ?? [], 'header'), true), $headers);
            if (! in_array(false, $old, true) && ! in_array(false, $new, true)) {
                return ['headers' => $headers, 'old' => array_map(intval(...), $old), 'new' => array_map(intval(...), $new)];
            }
        }

        return null;
    }

    /**
     * @param  array{headers: list<string>, old: list<int>, new: list<int>}  $key
     * @return array<string, mixed>
     */
    private function byKey(Take $before, Take $take, array $key): array
    {
        $prints = new StagedPrints($work = $take->id);
        $prints->clear();
        $prints->write($before->id, [1 => $key['old']], true);
        $prints->write($take->id, [2 => $key['new']], true);
        $only = fn (int $side, int $other) => DB::table('row_prints as a')->where('a.work', $work)->where('a.side', $side)
            ->whereNotExists(fn ($q) => $q->selectRaw('1')->from('row_prints as b')->whereColumn('b.work', 'a.work')->where('b.side', $other)->whereColumn('b.print', 'a.print'));
        $changed = DB::table('row_prints as n')->join('row_prints as o', fn ($j) => $j->on('o.work', 'n.work')->on('o.print', 'n.print'))->where('n.work', $work)->where('n.side', 2)->where('o.side', 1)
            ->join('staged_rows as ns', fn ($j) => $j->on('ns.row_no', 'n.row_no')->where('ns.take_id', $take->id))->join('staged_rows as os', fn ($j) => $j->on('os.row_no', 'o.row_no')->where('os.take_id', $before->id))
            ->whereColumn('ns.hash', '<>', 'os.hash');
        $result = [
            'added' => $only(2, 1)->count(), 'gone' => $only(1, 2)->count(), 'changed' => (clone $changed)->count(),
            'added_rows' => $only(2, 1)->orderBy('a.row_no')->limit(self::EXAMPLES)->pluck('a.row_no')->all(),
            'gone_rows' => $only(1, 2)->orderBy('a.row_no')->limit(self::EXAMPLES)->pluck('a.row_no')->all(),
            'changed_rows' => (clone $changed)->orderBy('n.row_no')->limit(self::EXAMPLES)->get(['n.row_no as now', 'o.row_no as was'])->map(fn ($r) => [(int) $r->now, (int) $r->was])->all(),
        ];
        $prints->clear();

        return $result;
    }

    /**
     * Without a key a changed row is one gone and one added.
     *
     * @return array<string, mixed>
     */
    private function byContents(Take $before, Take $take): array
    {
        $work = $take->id;
        DB::table('row_prints')->where('work', $work)->delete();
        foreach ([1 => $before->id, 2 => $take->id] as $side => $id) {
            DB::insert('INSERT INTO row_prints (work, side, print, row_no, hash) SELECT ?, ?, hash, row_no, hash FROM staged_rows WHERE take_id = ?', [$work, $side, $id]);
        }
        $extra = fn (int $a, int $b) => (int) DB::scalar('SELECT COALESCE(SUM(GREATEST(x.n - COALESCE(y.n, 0), 0)), 0) FROM (SELECT print, COUNT(*) AS n FROM row_prints WHERE work = ? AND side = ? GROUP BY print) x
            LEFT JOIN (SELECT print, COUNT(*) AS n FROM row_prints WHERE work = ? AND side = ? GROUP BY print) y ON y.print = x.print', [$work, $a, $work, $b]);
        $result = ['added' => $extra(2, 1), 'gone' => $extra(1, 2), 'changed' => null, 'added_rows' => [], 'gone_rows' => [], 'changed_rows' => []];
        DB::table('row_prints')->where('work', $work)->delete();

        return $result;
    }
}
