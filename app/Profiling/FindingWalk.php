<?php

namespace App\Profiling;

use App\Models\Finding;
use App\Models\Take;
use App\Staging\StagedRows;
use App\Support\BulkRows;
use App\Support\NumberPage;
use Baggage\Core\Profiling\ColumnFacts;
use Baggage\Core\Profiling\FindingTest;
use Baggage\Core\Profiling\TableProfile;
use Baggage\Core\Reading\Remark;
use Baggage\Core\Reading\RowList;
use Illuminate\Support\Facades\DB;

/** Finds the rows of findings that are only known once the whole column is, on a walk through the take, and only when needed. */
final class FindingWalk
{
    /** Rows written at a time. */
    private const AT_ONCE = 20_000;

    /** @var array<int, \Closure(list<string|null>): bool> by finding */
    private array $tests = [];

    /** @var array<int, int> finding → rows it is about */
    private array $wanted = [];

    /** @var array<int, int> finding → rows that were met */
    private array $found = [];

    private string $lines = '';

    private int $n = 0;

    public function __construct(private readonly Take $take)
    {
    }

    /**
     * @param  list<Remark>  $findings
     * @param  list<ColumnFacts>  $facts
     * @return list<Remark>
     */
    public function complete(array $findings, array $facts): array
    {
        foreach ($findings as $i => $f) {
            if ($f->inLines && $f->rows !== []) {
                $rows = StagedRows::ofLines($this->take->id, $f->rows);
                $findings[$i] = new Remark($f->code, $f->message, $f->count, $rows, $f->column);
            }
        }
        $lengths = [];
        foreach ($findings as $i => $f) {
            if ($f->code === 'lost_zeros' && $f->column !== null) {
                $lengths[$i] = [$f->column, TableProfile::usualLength($facts[$f->column])[0], new RowList];
            }
        }
        if ($lengths === []) {
            return $findings;
        }
        foreach (StagedRows::pages($this->take->id) as $rows) {
            foreach ($rows as $row => $json) {
                $cells = json_decode($json, true);
                foreach ($lengths as [$column, $usual, $list]) {
                    $cell = trim((string) ($cells[$column] ?? ''));
                    if ($cell !== '' && strlen($cell) < $usual && ctype_digit($cell)) {
                        $list->add($row);
                    }
                }
            }
        }
        foreach ($lengths as $i => [$column, , $list]) {
            $findings[$i] = new Remark('lost_zeros', $findings[$i]->message, $list->count, $list->rows, $column);
        }

        return $findings;
    }

    /** Whether its rows are too many to stand with it and were written down apart. */
    public static function isApart(Finding $finding): bool
    {
        return count($finding->rows) < $finding->n && DB::table('finding_rows')->where('finding_id', $finding->id)->exists();
    }

    /** A page of the rows a finding is about. */
    public static function numbers(Finding $finding, int $after): NumberPage
    {
        return self::isApart($finding)
            ? NumberPage::of(DB::table('finding_rows')->where('finding_id', $finding->id), $after)
            : NumberPage::among($finding->rows, $after);
    }

    /**
     * Looks for all rows of findings that are about more than stand with them.
     *
     * @return (\Closure(int, list<string|null>): void)|null to be shown every row; null where none are sought
     */
    public function begin(): ?\Closure
    {
        $this->tests = $this->wanted = $this->found = [];
        $headers = $this->take->headers();
        foreach (Finding::query()->where('take_id', $this->take->id)->get() as $finding) {
            $mark = $this->take->profile[$finding->position ?? -1]['type']['mark'] ?? null;
            $test = count($finding->rows) < $finding->n && $finding->rows !== []
                ? FindingTest::of($finding->code, $finding->position, $mark, $headers)
                : null;
            if ($test !== null) {
                $this->tests[$finding->id] = $test;
                $this->wanted[$finding->id] = $finding->n;
                $this->found[$finding->id] = 0;
            }
        }
        DB::table('finding_rows')->whereIn('finding_id', array_keys($this->tests))->delete();

        return $this->tests === [] ? null : $this->row(...);
    }

    /** @param  list<string|null>  $cells */
    private function row(int $row, array $cells): void
    {
        foreach ($this->tests as $id => $test) {
            if ($test($cells)) {
                $this->lines .= "$id\t$row\n";
                $this->found[$id]++;
                $this->n++;
            }
        }
        if ($this->n >= self::AT_ONCE) {
            $this->write();
        }
    }

    /** All rows were shown. A list that is not as long as its finding says is none. */
    public function end(): void
    {
        $this->write();
        DB::table('finding_rows')->whereIn('finding_id', array_keys(array_diff_assoc($this->found, $this->wanted)))->delete();
    }

    private function write(): void
    {
        BulkRows::load(DB::connection(), 'finding_rows', '(finding_id, row_no)', $this->lines, $this->n);
        [$this->lines, $this->n] = ['', 0];
    }
}
