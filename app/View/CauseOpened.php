<?php

namespace App\View;

use App\Decisions\Numbers;
use App\Ledger\CauseReader;
use App\Ledger\LedgerReader;
use App\Ledger\WaiverBook;
use App\Models\Load;
use App\Models\Round;
use App\Models\Rule as Kept;
use App\Models\Take;
use App\Rejects\CauseGroup;
use App\Rejects\CodesBehind;
use App\Staging\StagedRows;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Expressions\Rule;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Rows\InCommon;
use Baggage\Core\Rows\Stage;
use Illuminate\Http\Request;

/** A cause as it is opened: its values, some of its rows, what they have in common, and what repairs need to know. */
final readonly class CauseOpened
{
    private const VALUES = 50;

    private const ROWS = 8;

    /** Rows looked at for what they have in common, and rows of the load beside them. */
    private const LOOKED_AT = 300;

    private const BESIDE = 700;

    private function __construct(
        private Page $page,
        private Round $round,
        private CauseGroup $group,
        private CauseReader $causes,
        private Load $load,
        private ?Take $take,
    ) {
    }

    public static function of(Page $page, Round $round, CauseGroup $group): self
    {
        $load = $page->migration->loads()->findOrFail($group->load);

        return new self($page, $round, $group, new CauseReader($round->laneId()), $load, $page->take($group->load));
    }

    /**
     * @param  array<string, \stdClass>  $tasks  of CauseTasks::all
     * @return array<string, mixed>
     */
    public function data(Request $request, array $tasks): array
    {
        $group = $this->group;
        $find = trim((string) $request->query('find'));
        $after = preg_match('/^(\d{1,12}):(\d{1,10})$/', (string) $request->query('values'), $m) === 1 ? [(int) $m[1], (int) $m[2]] : null;
        $values = $this->causes->values($group->load, $group->stage, $group->code, $group->field, self::VALUES + 1, $after, $find);
        $last = count($values) > self::VALUES ? $values[self::VALUES - 1] : null;
        $values = array_slice($values, 0, self::VALUES);
        $ids = array_map(fn ($v) => (int) $v->id, $values);
        $rows = (new LedgerReader($this->round))->rejected($this->load->id, $ids, self::ROWS);
        [$rule, $positions] = $this->readsFrom();
        $cells = StagedRows::cells((int) $this->take?->id, array_map(fn ($r) => (int) $r->row_no, $rows));

        return [
            'load' => $this->load,
            'space' => $this->page->all()->get($this->load->id)->space ?? '',
            'values' => $values,
            'next' => $last === null ? null : "$last->own:$last->id",
            'find' => $find,
            'rows' => $rows,
            'besides' => $this->besides($rows),
            'headers' => array_map(fn (int $i) => $this->take?->tidyColumns()->all[$i]->header, $positions),
            'cells' => array_map(fn (array $row) => array_map(fn (int $i) => $row[$i] ?? null, $positions), $cells),
            'asRead' => $this->asRead($ids, $positions),
            'rule' => $rule,
            'version' => (int) $this->kept()?->version,
            'codes' => CodesBehind::of($this->page->migration, $group, $rule, $values),
            'sheet' => $this->sheet($rows),
            'seen' => Numbers::last($this->page->migration->id),
            'waived' => WaiverBook::newest($this->round, array_map(fn ($v) => [$this->load->id, $v->waive_hash], $values)),
            'ragged' => in_array($group->code, ['short_row', 'long_row'], true),
            'parents' => in_array($group->code, ['orphan', 'parent_left'], true),
            'refused' => $group->stage === Stage::Writing->value,
            'common' => $this->inCommon($ids, $positions),
            'task' => $tasks[$group->id()] ?? null,
            'people' => $this->page->migration->users()->orderBy('name')->get(['users.id', 'users.name']),
        ];
    }

    /** The rule of the field, as it is kept. */
    private function kept(): ?Kept
    {
        return $this->load->rules->firstWhere('field', $this->field());
    }

    private function field(): string
    {
        return explode(', ', (string) $this->group->field)[0];
    }

    /**
     * @return array{Rule|null, list<int>} the rule that rejected the rows, and the columns it reads; those of the key where there is
     *                                     none
     */
    private function readsFrom(): array
    {
        $columns = $this->take?->tidyColumns() ?? Columns::fromArray([]);
        $written = $this->kept()?->expression;
        try {
            $rule = $written === null ? null : (new Compiler($columns))->compile((string) $written);
        } catch (ExpressionError) {
            $rule = null;
        }
        $key = array_map(fn (string $name) => $columns->find($name)?->position, $this->load->key_columns);

        return $rule !== null ? [$rule, $rule->columns] : [null, array_values(array_filter($key, fn (?int $at) => $at !== null))];
    }

    /**
     * What the cells a rule reads say in the first row of each value, with the corrections laid over them.
     *
     * @param  list<int>  $causes
     * @param  list<int>  $positions
     * @return array<int, array<string, string>> cause → header → cell
     */
    private function asRead(array $causes, array $positions): array
    {
        $rows = $this->causes->firstRows($causes);
        $cells = $rows === [] ? [] : (new StagedRows((int) $this->take?->id))->numbered(array_values(array_unique($rows)));
        $found = [];
        foreach ($rows as $cause => $row) {
            foreach ($positions as $i) {
                $header = (string) $this->take?->tidyColumns()->all[$i]->header;
                $found[$cause][$header] = (string) ($cells[$row][$i] ?? '');
            }
        }

        return $found;
    }

    /**
     * Values of other columns that are unusual among the rows.
     *
     * @param  list<int>  $causes
     * @param  list<int>  $read  columns the failure is about
     * @return list<\stdClass> header, value, n, of, all, rows
     */
    private function inCommon(array $causes, array $read): array
    {
        $take = $this->take;
        $last = (int) $take?->rows;
        $rows = $last === 0 ? [] : $this->causes->someRows($causes, self::LOOKED_AT);
        if ($take === null || count($rows) < 3) {
            return [];
        }
        $beside = $last <= self::BESIDE ? range(1, $last) : array_map(
            fn (int $i) => 1 + intdiv($i * $last, self::BESIDE),
            range(0, self::BESIDE - 1),
        );
        $cells = StagedRows::cells($take->id, array_values(array_unique([...$rows, ...$beside])));
        $of = fn (array $numbers) => array_values(array_intersect_key($cells, array_flip($numbers)));
        $columns = $take->tidyColumns()->all;

        return array_map(fn (InCommon $c) => (object) [
            'header' => $columns[$c->position]->header ?? '', 'value' => $c->value, 'n' => $c->n, 'of' => $c->of, 'all' => $c->all,
            'rows' => $c->rows,
        ], InCommon::of($of($rows), $of($beside), $read, 6));
    }

    /**
     * The other rows that rows are in the way of.
     *
     * @param  array<int, \stdClass>  $rows
     * @return array<int, array{load: int, row: int}> row → the one that has its key or value
     */
    private function besides(array $rows): array
    {
        $found = [];
        foreach ($rows as $row) {
            $found[(int) $row->row_no] = InTheWay::row($this->page, $this->load, $row->message ?? $this->group->message);
        }

        return array_filter($found);
    }

    /**
     * Address of the rule sheet with the first of the rows, at the rule that rejected them.
     *
     * @param  array<int, object>  $rows
     */
    private function sheet(array $rows): string
    {
        // The sheet shows rows of the newest take, where these numbers may be those of other rows.
        $listed = $this->page->all()->get($this->load->id);
        $isNewest = $this->take?->id === $listed?->take;
        $numbers = implode(',', array_column(array_slice($rows, 0, 3), 'row_no'));

        return $this->page->url('mapping', $listed?->entity)."?load={$this->load->id}".($isNewest ? "&rows=$numbers" : '')
            ."#rule-{$this->field()}";
    }
}
