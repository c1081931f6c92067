<?php

namespace App\Profiling;

use App\Models\FindingDecision;
use App\Models\Take;
use App\Staging\KeyFiles;
use App\Staging\StagedRows;
use App\Staging\ValueHashes;
use Baggage\Core\Profiling\KeyGuess;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\RowList;
use Illuminate\Support\Facades\DB;

/** Finds the columns that identify the rows of a take, with the rows that speak against each. */
final class KeyFinder
{
    private const SAMPLE = 5_000;

    /** @param  FindingWalk  $findings  of the take, whose rows are looked for on the same way */
    public function find(Take $take, FindingWalk $findings): KeyHashes
    {
        $columns = Columns::fromArray($take->columns ?? []);
        $sample = StagedRows::sample($take->id, self::SAMPLE);
        $names = array_map(fn ($c) => $c->name, $columns->all);
        $guesses = KeyGuess::of($names, $take->profile ?? [], (int) $take->rows, $sample);
        $hashes = ValueHashes::begin('value_hashes', false);
        $found = [];
        $sought = $findings->begin();
        $this->hash($take, $guesses, $hashes, $sought);
        $findings->end();
        foreach ($guesses as $side => $positions) {
            $found[] = $this->tried($take, $side, $hashes->written($side), array_map(fn ($i) => $columns->all[$i]->header, $positions));
        }
        $likeliest = $found[0]['side'] ?? null;
        // Those without exceptions first, then the likeliest.
        usort(
            $found,
            fn ($a, $b) => min(1, $a['duplicate_rows'] + $a['blank_rows'])
                <=> min(1, $b['duplicate_rows'] + $b['blank_rows']),
        );
        DB::transaction(function () use ($take, $found, $likeliest) {
            DB::table('key_candidates')->where('extract_id', $take->extract_id)->delete();
            $best = null;
            foreach ($found as $key) {
                $id = DB::table('key_candidates')->insertGetId(array_diff_key($key, ['side' => 0]));
                $this->keepRows($take, $id, $key);
                $best = $key['side'] === $likeliest ? ['id' => $id] + $key : $best;
            }
            $this->sayDuplicates($take, $best);
        });

        return new KeyHashes($hashes->under("key_hashes_$take->id"), array_column($found, 'side', 'columns'));
    }

    /**
     * Columns that were hashed while the take was frozen are not read again.
     *
     * @param  list<list<int>>  $guesses
     * @param  (\Closure(int, list<string|null>): void)|null  $sought  shown every row
     */
    private function hash(Take $take, array $guesses, ValueHashes $hashes, ?\Closure $sought): void
    {
        $files = new KeyFiles($take->id);
        $unread = [];
        foreach ($guesses as $side => $positions) {
            if (count($positions) === 1 && $files->has($positions[0], (int) $take->rows)) {
                $hashes->take($side, $files, $positions[0]);
            } else {
                $unread[$side] = $positions;
            }
        }
        if ($unread !== [] || $sought !== null) {
            $hashes->write($take->id, $unread, $sought);
        }
        $hashes->index();
        $files->forget();
    }

    /**
     * A guess held against all rows.
     *
     * @param  int  $filled  rows with a value
     * @param  list<string>  $headers
     * @return array<string, mixed> the candidate as it is kept, and its side of the hashes
     */
    private function tried(Take $take, int $side, int $filled, array $headers): array
    {
        $different = (int) DB::scalar('SELECT COUNT(DISTINCT key_hash) FROM value_hashes WHERE side = ?', [$side]);
        $twice = $filled === $different ? [] : DB::select(
            'SELECT MIN(row_no) AS first, MAX(row_no) AS last, COUNT(*) AS n FROM value_hashes WHERE side = ? '
                .'GROUP BY key_hash HAVING n > 1 ORDER BY first LIMIT 20',
            [$side],
        );

        return [
            'side' => $side,
            'extract_id' => $take->extract_id,
            'take_id' => $take->id,
            'columns' => json_encode($headers),
            'duplicate_rows' => $filled - $different,
            'blank_rows' => (int) $take->rows - $filled,
            'examples' => json_encode(array_map(fn ($t) => [(int) $t->first, (int) $t->last, (int) $t->n], $twice)),
            'created_at' => now(),
            'updated_at' => now(),
        ];
    }

    /** @param  array<string, mixed>  $key */
    private function keepRows(Take $take, int $id, array $key): void
    {
        if ($key['duplicate_rows'] > 0) {
            DB::statement(
                'INSERT INTO key_rows (key_id, first_row, row_no) SELECT ?, g.first_row, p.row_no FROM value_hashes p
                JOIN (SELECT key_hash, MIN(row_no) AS first_row FROM value_hashes WHERE side = ? GROUP BY key_hash
                HAVING COUNT(*) > 1) g ON g.key_hash = p.key_hash WHERE p.side = ?',
                [$id, $key['side'], $key['side']],
            );
        }
        if ($key['blank_rows'] > 0) {
            $blank = StagedRows::numbers($take->id)
                ->selectRaw('?, 0', [$id])
                ->whereNotIn('row_no', DB::table('value_hashes')->where('side', $key['side'])->select('row_no'));
            DB::table('key_rows')->insertUsing(['row_no', 'key_id', 'first_row'], $blank);
        }
    }

    /** @param  array<string, mixed>|null  $best */
    private function sayDuplicates(Take $take, ?array $best): void
    {
        DB::table('findings')->where('take_id', $take->id)->where('code', 'duplicate_keys')->delete();
        if ($best === null || $best['duplicate_rows'] === 0 || $take->rows < $best['duplicate_rows'] * 100) {
            return;
        }
        $header = implode(' + ', json_decode($best['columns'], true));
        $old = $take->extract?->decisionOn('duplicate_keys', $header);
        $kept = $old !== null && $old['is'] !== FindingDecision::AtSource->value;
        DB::table('findings')->insert([
            'extract_id' => $take->extract_id,
            'take_id' => $take->id,
            'code' => 'duplicate_keys',
            'header' => mb_substr($header, 0, 250),
            'n' => $best['duplicate_rows'],
            'message' => "$header identifies every row but these, which have the key of another row.",
            'rows' => json_encode(
                DB::table('key_rows')
                    ->where('key_id', $best['id'])
                    ->where('first_row', '>', 0)
                    ->whereColumn('row_no', '<>', 'first_row')
                    ->orderBy('row_no')
                    ->limit(RowList::KEPT)
                    ->pluck('row_no'),
            ),
            'decision' => $kept ? $old['is'] : FindingDecision::Open->value,
            'note' => $old['note'] ?? null,
            'user_id' => $kept ? $old['by'] ?? null : null,
            'created_at' => now(),
            'updated_at' => now(),
        ]);
    }
}
