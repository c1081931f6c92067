<?php

namespace App\Decisions;

use App\Models\Extract;
use App\Models\Load;
use App\Models\Take;
use App\Staging\StagedRows;
use Baggage\Core\Rows\RowFollower;
use Baggage\Core\Rows\RowKey;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;

/** Names rows people decided about, and finds them again in other takes of their extract. */
final class RowKeys
{
    /**
     * @param  list<int>  $rows  of the take
     * @return array<int, int> row number → number of its key
     */
    public static function of(Take $take, array $rows): array
    {
        $known = self::placed($take->id, $rows);
        $new = array_values(array_diff($rows, array_keys($known)));
        if ($new !== []) {
            self::name($take, $new);
            $known = self::placed($take->id, $rows);
        }

        return $known;
    }

    /**
     * Headers of the columns that identify the rows of an extract: those stated; else a unique key that was found, the key of a load
     * before others; else the columns the key of its first load reads.
     *
     * @return list<string>|null null where there are none
     */
    public static function columns(Extract $extract): ?array
    {
        if ($extract->row_key !== null) {
            return $extract->row_key;
        }
        $columns = $extract->tidyColumns();
        $loads = Load::query()
            ->where('extract_id', $extract->id)
            ->orderBy('position')
            ->get()
            ->map(fn (Load $l) => array_map(fn (string $name) => $columns->find($name)->header ?? $name, $l->key_columns));
        $unique = self::unique((int) $extract->take_id);
        foreach ($loads as $key) {
            if (in_array($key, $unique, true)) {
                return $key;
            }
        }

        return $unique[0] ?? $loads->first();
    }

    /** Every key of the extract says afterwards whether it names its row alone. */
    public static function settleAll(int $extract): void
    {
        $unknown = self::query()->where('k.extract_id', $extract)->where('k.known', 0)->get();
        foreach ($unknown->groupBy('take_id') as $origin => $keys) {
            self::settle((int) $origin, $keys);
        }
    }

    /**
     * Finds every row somebody decided about in a take where it was not looked for yet.
     *
     * @param  array<int|string, RowKey>  $also  others to look for; they are not written down
     */
    public static function follow(Take $take, array $also = []): ?RowFollower
    {
        $keys = self::query()
            ->where('k.extract_id', $take->extract_id)
            ->whereNotExists(fn ($q) => $q->from('row_places as p')->whereColumn('p.row_key_id', 'k.id')->where('p.take_id', $take->id))
            ->get();
        if ($keys->isEmpty() && $also === []) {
            return null;
        }
        $wanted = $also;
        foreach ($keys as $key) {
            $wanted[$key->id] = self::asKey($key);
        }
        $follower = RowFollower::lookingFor($wanted, $take->tidyColumns());
        foreach (StagedRows::walk($take->id) as $row => [, $hash, $cells]) {
            $follower->see($row, $hash, $cells);
        }
        foreach ($keys->chunk(1000) as $some) {
            DB::table('row_places')->insertOrIgnore(
                $some->map(fn ($k) => ['take_id' => $take->id, 'row_key_id' => $k->id, 'row_no' => $follower->row($k->id)])->all(),
            );
        }

        return $follower;
    }

    /** @return array<int, RowKey> by number */
    public static function keys(int ...$ids): array
    {
        return self::query()->whereIntegerInRaw('k.id', $ids)->get()->keyBy('id')->map(self::asKey(...))->all();
    }

    /**
     * @param  list<int>  $rows
     * @return array<int, int>
     */
    public static function placed(int $take, array $rows): array
    {
        return DB::table('row_places')
            ->where('take_id', $take)
            ->whereIntegerInRaw('row_no', $rows)
            ->groupBy('row_no')
            ->selectRaw('row_no, MIN(row_key_id) AS k')
            ->pluck('k', 'row_no')
            ->map(fn ($id) => (int) $id)
            ->all();
    }

    /** @param  list<int>  $rows */
    private static function name(Take $take, array $rows): void
    {
        $extract = $take->extract()->firstOrFail();
        $headers = self::columns($extract);
        $columns = $take->tidyColumns();
        $sure = in_array($headers, self::unique($take->id), true);
        $lines = [];
        foreach (StagedRows::known($take->id, $rows) as $row => [, $hash, $cells]) {
            $key = RowKey::of($headers, $cells, $columns, $hash);
            $lines[] = [
                'extract_id' => $take->extract_id,
                'take_id' => $take->id,
                'row_no' => $row,
                'hash' => hex2bin($hash),
                'columns' => $key->columns === null ? null : json_encode($key->columns),
                'values' => $key->columns === null ? null : json_encode($key->values, JSON_INVALID_UTF8_SUBSTITUTE),
                'known' => $sure && $key->columns !== null,
            ];
        }
        DB::table('row_keys')->insertOrIgnore($lines);
        DB::table('row_places')->insertUsing(
            ['take_id', 'row_key_id', 'row_no'],
            DB::table('row_keys')
                ->where('take_id', $take->id)
                ->whereIntegerInRaw('row_no', $rows)
                ->whereNotExists(fn ($q) => $q->from('row_places as p')
                    ->whereColumn('p.take_id', 'row_keys.take_id')
                    ->whereColumn('p.row_key_id', 'row_keys.id'))
                ->select('take_id', 'id', 'row_no'),
        );
    }

    /**
     * Looks whether keys are unique in the take they were made in; a row whose key is not is named by its place among equal ones.
     *
     * @param  Collection<int, \stdClass>  $keys
     */
    private static function settle(int $take, Collection $keys): void
    {
        $at = $keys->keyBy('row_no');
        $seen = array_fill_keys($keys->pluck('hash')->all(), 0);
        $follower = RowFollower::lookingFor(
            $keys->keyBy('id')->map(self::asKey(...))->all(),
            Take::query()->findOrFail($take)->tidyColumns(),
        );
        $places = [];
        foreach (StagedRows::walk($take) as $row => [, $hash, $cells]) {
            $follower->see($row, $hash, $cells);
            if (isset($seen[$hash])) {
                $seen[$hash]++;
                if (isset($at[$row])) {
                    $places[$row] = $seen[$hash];
                }
            }
        }
        foreach ($keys as $key) {
            $key->place = $key->columns === null || $follower->isRepeated($key->id) ? $places[$key->row_no] ?? 1 : null;
            DB::table('row_keys')->where('id', $key->id)->update(['place' => $key->place, 'known' => 1]);
        }
    }

    /** What is known of decided rows in a take that goes. */
    public static function forgetTake(int $take): void
    {
        foreach (['correction_places', 'row_places'] as $table) {
            DB::table($table)->where('take_id', $take)->delete();
        }
    }

    /** Decisions about the rows of an extract that goes. */
    public static function forget(Extract $extract): void
    {
        $keys = DB::table('row_keys')->where('extract_id', $extract->id)->select('id');
        DB::table('correction_places')
            ->whereIn('correction_id', DB::table('corrections')->where('extract_id', $extract->id)->select('id'))
            ->delete();
        DB::table('corrections')->where('extract_id', $extract->id)->delete();
        foreach (['row_places', 'waivers', 'pairs'] as $table) {
            DB::table($table)->whereIn('row_key_id', clone $keys)->delete();
        }
        DB::table('row_keys')->where('extract_id', $extract->id)->delete();
    }

    private static function query(): Builder
    {
        return DB::table('row_keys as k')
            ->selectRaw('k.id, k.take_id, k.row_no, LOWER(HEX(k.hash)) AS hash, k.columns, k.`values`, k.place');
    }

    private static function asKey(\stdClass $key): RowKey
    {
        $columns = $key->columns === null ? null : json_decode($key->columns, true);

        return new RowKey(
            $columns,
            $columns === null ? [] : json_decode($key->values, true),
            (string) $key->hash,
            $key->place === null ? null : (int) $key->place,
        );
    }

    /** @return list<list<string>> columns that are a key of the take without exception */
    private static function unique(int $take): array
    {
        return DB::table('key_candidates')
            ->where('take_id', $take)
            ->where('duplicate_rows', 0)
            ->where('blank_rows', 0)
            ->orderBy('id')
            ->pluck('columns')
            ->map(fn ($c) => json_decode((string) $c, true))
            ->all();
    }
}
