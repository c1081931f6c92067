<?php

namespace App\Files;

use App\Decisions\RowKeys;
use App\Models\Answer;
use App\Models\ClientFile;
use App\Models\Load;
use App\Models\Take;
use App\Staging\Corrections;
use App\Staging\StagedRows;
use App\Support\BulkRows;
use Baggage\Core\Rows\RowSet;
use Baggage\Core\Writing\Resaved;
use Illuminate\Support\Facades\DB;

/** Holds rows that came back against what was written into the file and what they say now, and writes down what was changed. */
final class AnswerList
{
    /** What a cell shows whose formula failed. */
    private const ERROR = '/^#(?:N\/A|REF!|VALUE!|DIV\/0!|NAME\?|NUM!|NULL!)$/';

    private const SAME = 'same';

    /** Changes written down at a time. */
    private const AT_ONCE = 5_000;

    /** Ways cells were changed, kept in mind. */
    private const KNOWN = 5_000;

    /** @var array<int, Take|null> */
    private array $takes = [];

    /** @var list<list<string|int|null>> changes that are not written down yet */
    private array $lines = [];

    /** @var array<string, string> what a cell says, was and is now → what that is */
    private array $kinds = [];

    private readonly int $number;

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
        $this->number = $answer->id;
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
        $this->lines = [];
        DB::table('answer_changes')->where('answer_id', $this->answer->id)->delete();
        DB::table('row_remarks')->where('answer_id', $this->answer->id)->delete();
    }

    /** @param  array<int, list<string|null>>  $rows  by their number */
    public function compare(int $load, array $rows, AnswerLayout $layout): void
    {
        $take = $this->take($load) ?? throw new \LogicException("The file has no rows of load $load.");
        $rows = $this->known($load, $rows);
        $now = (new StagedRows($take->id))->numbered(array_keys($rows));
        // Nearly always nothing was corrected since.
        $this->isAsItWas[$take->id] ??= ! Corrections::hasSince($take->id, $this->file->decision);
        $then = $this->isAsItWas[$take->id] ? $now : (new StagedRows($take->id, $this->file->decision))->numbered(array_keys($rows));
        $remarks = [];
        foreach ($rows as $row => $cells) {
            array_push($this->lines, ...$this->row($load, $take, $row, $cells, $layout->own, $then[$row] ?? [], $now[$row] ?? []));
            $remarks[$row] = $layout->remark($cells);
        }
        count($this->lines) < self::AT_ONCE ?: $this->write();
        $this->remarks($take, array_filter($remarks, fn (string $remark) => $remark !== ''));
    }

    public function has(int $load, int $row): bool
    {
        return $this->take($load) !== null && $this->sets[$load]->has($row);
    }

    /**
     * @param  array<int, list<string|null>>  $rows
     * @return array<int, list<string|null>> those of them the file has
     */
    private function known(int $load, array $rows): array
    {
        $known = array_filter($rows, $this->sets[$load]->has(...), ARRAY_FILTER_USE_KEY);
        $this->notes->unknown += count($rows) - count($known);

        return $known;
    }

    /** What was found is written down. */
    public function write(): void
    {
        BulkRows::load(
            DB::connection(),
            'answer_changes',
            '(answer_id, load_id, take_id, row_no, position, was, is_now, becomes, kind)',
            implode('', array_map(BulkRows::line(...), $this->lines)),
            count($this->lines),
        );
        $this->lines = [];
    }

    /**
     * @param  list<string|null>  $cells  of the file
     * @param  array<int, int>  $own  position in the take → in the sheet
     * @param  list<string|null>  $then  as they were written
     * @param  list<string|null>  $now
     * @return list<list<string|int|null>> cells that say something else
     */
    private function row(int $load, Take $take, int $row, array $cells, array $own, array $then, array $now): array
    {
        $keys = $this->keys[$load] ??= $this->keys($load, $take);
        $lines = [];
        foreach ($own as $position => $at) {
            $is = $cells[$at] ?? '';
            $was = $then[$position] ?? null;
            $kind = $is === (string) $was ? null : $this->kind($is, $was, $now[$position] ?? null);
            if ($kind !== null) {
                $this->counts['keys'] += $kind !== 'program' && in_array($position, $keys, true) ? 1 : 0;
                $lines[] = [$this->number, $load, $take->id, $row, $position, $was, $now[$position] ?? null, $is, $kind];
            }
        }

        return $lines;
    }

    /** @return list<int> positions of the columns by which the load knows its rows */
    private function keys(int $load, Take $take): array
    {
        $columns = $take->tidyColumns();
        $found = array_map(fn (string $name) => $columns->find($name)?->position, Load::query()->find($load)->key_columns ?? []);

        return array_values(array_filter($found, fn (?int $at) => $at !== null));
    }

    /** @return string|null change, conflict or program; null where it says nothing new */
    private function kind(string $is, ?string $was, ?string $now): ?string
    {
        // The same value is put right the same way in many rows.
        $of = strlen($is) + strlen((string) $was) + strlen((string) $now) > 300 ? null : "$is\0$was\0$now";
        $kind = $of === null ? null : $this->kinds[$of] ?? null;
        if ($kind === null) {
            $kind = self::kindOf($is, $was, $now);
            if ($of !== null) {
                $this->kinds = count($this->kinds) >= self::KNOWN ? [] : $this->kinds;
                $this->kinds[$of] = $kind;
            }
        }
        if ($kind === self::SAME) {
            return null;
        }
        $this->counts[$kind]++;

        return $kind === 'errors' || $kind === 'already' ? null : $kind;
    }

    private static function kindOf(string $is, ?string $was, ?string $now): string
    {
        return match (true) {
            Resaved::isSame($was, $is) => self::SAME,
            preg_match(self::ERROR, $is) === 1 => 'errors',
            Resaved::isSame($now, $is) => 'already',
            Resaved::isMadeOf($was, $is) => 'program',
            (string) $now !== (string) $was => 'conflict',
            default => 'change',
        };
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
