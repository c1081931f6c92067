<?php

namespace App\Files;

use App\Decisions\RowKeys;
use App\Models\Answer;
use App\Models\ClientFile;
use App\Models\Load;
use App\Models\Take;
use App\Staging\Corrections;
use App\Staging\StagedRows;
use Baggage\Core\Rows\RowSet;
use Baggage\Core\Writing\AnswerColumns;
use Baggage\Core\Writing\Resaved;
use Illuminate\Support\Facades\DB;

/** Holds rows that came back against what was written into the file and what they say now, and writes down what was changed. */
final class AnswerList
{
    /** What a cell shows whose formula failed. */
    private const ERROR = '/^#(?:N\/A|REF!|VALUE!|DIV\/0!|NAME\?|NUM!|NULL!)$/';

    /** @var array<int, Take|null> */
    private array $takes = [];

    /** @var array<int, RowSet> load → its rows in the file */
    private array $sets = [];

    /** @var array<int, list<int>> load → positions of its key */
    private array $keys = [];

    /** @var array<int, bool> by take */
    private array $isAsItWas = [];

    /** @var array<string, int> */
    private array $counts = ['change' => 0, 'conflict' => 0, 'program' => 0, 'already' => 0, 'errors' => 0, 'remarks' => 0, 'keys' => 0];

    public function __construct(private readonly Answer $answer, private readonly ClientFile $file, private readonly AnswerNotes $notes)
    {
    }

    /** The take whose rows of a load the file has; null where it has none of that load. */
    public function take(int $load): ?Take
    {
        if (! array_key_exists($load, $this->takes)) {
            $of = DB::table('file_loads')->where('file_id', $this->file->id)->where('load_id', $load)->first();
            $this->takes[$load] = $of === null ? null : Take::query()->find($of->take_id);
            $this->sets[$load] = RowSet::unpacked((string) $of?->row_set);
        }

        return $this->takes[$load];
    }

    /** @return array<string, int> */
    public function counts(): array
    {
        return $this->counts;
    }

    public function forget(): void
    {
        DB::table('answer_changes')->where('answer_id', $this->answer->id)->delete();
        DB::table('row_remarks')->where('answer_id', $this->answer->id)->delete();
    }

    /**
     * @param  array<int, list<string|null>>  $rows  by their number
     * @param  int|null  $remark  column of the remarks
     */
    public function compare(int $load, array $rows, AnswerColumns $columns, ?int $remark): void
    {
        $take = $this->take($load) ?? throw new \LogicException("The file has no rows of load $load.");
        $set = $this->sets[$load] ?? new RowSet;
        $known = array_filter($rows, $set->has(...), ARRAY_FILTER_USE_KEY);
        $this->notes->unknown += count($rows) - count($known);
        $rows = $known;
        $now = (new StagedRows($take->id))->numbered(array_keys($rows));
        // Nearly always nothing was corrected since.
        $this->isAsItWas[$take->id] ??= ! Corrections::hasSince($take->id, $this->file->decision);
        $then = $this->isAsItWas[$take->id]
            ? $now
            : (new StagedRows($take->id, $this->file->decision))->numbered(array_keys($rows));
        $keys = $this->keys[$load] ??= $this->keys($load, $take);
        $lines = [];
        foreach ($rows as $row => $cells) {
            foreach ($columns->own as $position => $at) {
                $is = $cells[$at] ?? '';
                $was = $then[$row][$position] ?? null;
                // As nearly all of them do.
                if ($is === (string) $was) {
                    continue;
                }
                $line = $this->cell($is, $was, $now[$row][$position] ?? null);
                $this->counts['keys'] += $line !== null && $line['kind'] !== 'program' && in_array($position, $keys, true) ? 1 : 0;
                if ($line !== null) {
                    $lines[] = ['answer_id' => $this->answer->id, 'load_id' => $load, 'row_no' => $row, 'position' => $position,
                        'take_id' => $take->id] + $line;
                }
            }
        }
        foreach (array_chunk($lines, 1_000) as $some) {
            DB::table('answer_changes')->insert($some);
        }
        if ($remark !== null) {
            $said = array_map(fn (array $cells) => trim((string) ($cells[$remark] ?? '')), $rows);
            $this->remarks($take, array_filter($said, fn (string $text) => $text !== ''));
        }
    }

    /** @return list<int> positions of the columns by which the load knows its rows */
    private function keys(int $load, Take $take): array
    {
        $columns = $take->tidyColumns();
        $found = array_map(fn (string $name) => $columns->find($name)?->position, Load::query()->find($load)->key_columns ?? []);

        return array_values(array_filter($found, fn (?int $at) => $at !== null));
    }

    /** @return array{was: string|null, is_now: string|null, becomes: string, kind: string}|null null where it says what it said */
    private function cell(string $is, ?string $was, ?string $now): ?array
    {
        if (Resaved::isSame($was, $is)) {
            return null;
        }
        if (preg_match(self::ERROR, $is) === 1) {
            $this->counts['errors']++;

            return null;
        }
        if (Resaved::isSame($now, $is)) {
            $this->counts['already']++;

            return null;
        }
        $kind = match (true) {
            Resaved::isMadeOf($was, $is) => 'program',
            (string) $now !== (string) $was => 'conflict',
            default => 'change',
        };
        $this->counts[$kind]++;

        return ['was' => $was, 'is_now' => $now, 'becomes' => $is, 'kind' => $kind];
    }

    /** @param  array<int, string>  $remarks  by row */
    private function remarks(Take $take, array $remarks): void
    {
        if ($remarks === []) {
            return;
        }
        $keys = RowKeys::of($take, array_keys($remarks));
        DB::table('row_remarks')->insertOrIgnore(array_map(fn (int $row) => [
            'answer_id' => $this->answer->id, 'row_key_id' => $keys[$row], 'remark' => mb_substr($remarks[$row], 0, 4_000),
        ], array_keys($remarks)));
        $this->counts['remarks'] += count($remarks);
    }
}
