<?php

namespace App\Http\Controllers;

use App\Decisions\Numbers;
use App\Ledger\CauseReader;
use App\Ledger\DueBook;
use App\Ledger\LedgerReader;
use App\Ledger\Links;
use App\Ledger\WaiverBook;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Round;
use App\Models\Take;
use App\Models\Work;
use App\Reconciling\CountBook;
use App\Rejects\CauseGroup;
use App\Rejects\CauseList;
use App\Rejects\CodesBehind;
use App\Rejects\CorrectionList;
use App\Staging\StagedRows;
use App\View\Page;
use App\View\Tables\RejectTables;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Expressions\Rule;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\Stage;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

final class RejectsController extends Controller
{
    /** Lines read of what is listed; beyond, the page says how to see the others. */
    private const MOST = 1_000;

    public function index(Request $request, Migration $migration, ?string $entity = null): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'rejects', $entity);
        if ($page->round === null || $page->orderError() !== null) {
            return view('rejects.none', ['page' => $page]);
        }
        $loads = array_values($page->loads()->pluck('id')->all());
        $links = array_values(array_filter(
            (new Links($page->round->laneId()))->open(),
            fn ($l) => in_array((int) $l->load_id, $loads, true),
        ));
        $counts = $this->counts($page) + [
            'references' => array_sum(array_column($links, 'waiting')),
            'open references' => array_sum(array_column($links, 'waived')),
            'corrections' => CorrectionList::countWaiting($migration),
        ];
        $show = in_array($request->query('show'), ['held', 'left', 'references', 'corrections'], true)
            ? (string) $request->query('show')
            : 'causes';
        $tables = new RejectTables($request, $page);

        return $this->screen('rejects.index', [
            'page' => $page,
            'show' => $show,
            'counts' => $counts,
            'works' => Work::toShow($migration),
        ] + match ($show) {
            'held' => $this->held($tables, $page->round, $loads),
            'left' => $this->left($tables, $page->round, $loads),
            'references' => ['links' => $tables->references($links)],
            'corrections' => ['undecided' => $tables->corrections(CorrectionList::waiting($migration, self::MOST))],
            default => $this->causes($request, $tables, $page, $page->round, $loads),
        });
    }

    /**
     * @param  list<int>  $loads
     * @return array<string, mixed>
     */
    private function causes(Request $request, RejectTables $tables, Page $page, Round $round, array $loads): array
    {
        $list = new CauseList(new CauseReader($round->laneId()), new DueBook($round->laneId()));
        $groups = $list->groups($loads);
        $open = collect($groups)->first(fn (CauseGroup $g) => $g->id() === $request->query('cause'));

        return [
            'groups' => $tables->causes($groups),
            'open' => $open,
            'detail' => $open === null ? null : $this->detail($page, $round, $list, $open),
        ];
    }

    /**
     * @param  list<int>  $loads
     * @return array<string, mixed>
     */
    private function held(RejectTables $tables, Round $round, array $loads): array
    {
        $causes = new CauseReader($round->laneId());
        $held = $tables->held($causes->parentsThatHold($loads, self::MOST));

        return ['held' => $held, 'because' => $causes->becauseOf(array_column($held->rows(), 'id')), 'most' => self::MOST];
    }

    /**
     * What was left behind, and why.
     *
     * @param  list<int>  $loads
     * @return array<string, mixed>
     */
    private function left(RejectTables $tables, Round $round, array $loads): array
    {
        $left = $tables->left((new CauseReader($round->laneId()))->leftBehind($loads, self::MOST));
        $toConfirm = $round->hasEnded() || $round->kind !== 'cutover' ? [] : CountBook::of($round)->toConfirm ?? [];

        return [
            'left' => $left,
            'waivers' => WaiverBook::newest($round, array_map(fn ($c) => [(int) $c->load_id, $c->waive_hash], $left->rows())),
            'toConfirm' => $tables->toConfirm($toConfirm),
        ];
    }

    /** @return array<string, int> */
    private function counts(Page $page): array
    {
        $sum = ['rejected' => 0, 'held' => 0, 'waived' => 0];
        foreach ($page->loads() as $load) {
            foreach (array_keys($sum) as $outcome) {
                $sum[$outcome] += $page->proof($load)->count(Outcome::from($outcome));
            }
        }

        return $sum + ['due' => $page->due($page->loads())];
    }

    /** @return array<string, mixed> what the opened cause shows */
    private function detail(Page $page, Round $round, CauseList $list, CauseGroup $group): array
    {
        $load = $page->migration->loads()->findOrFail($group->load);
        $values = $list->values($group);
        $rows = (new LedgerReader($round))->rejected($load->id, array_map(fn ($v) => (int) $v->id, $values), 8);
        $take = $page->take($load->id);
        [$rule, $positions] = $this->readsFrom($load, $take, $group);

        return [
            'load' => $load,
            'space' => $page->all()->get($load->id)->space ?? '',
            'values' => $values,
            'rows' => $rows,
            'headers' => array_map(fn (int $i) => $take?->tidyColumns()->all[$i]->header, $positions),
            'rule' => $rule,
            'codes' => CodesBehind::of($page->migration, $group, $rule, $values),
            'sheet' => $this->sheet($page, $load->id, $rows, $group),
            'seen' => Numbers::last($page->migration->id),
            'waived' => WaiverBook::newest($round, array_map(fn ($v) => [$load->id, $v->waive_hash], $values)),
            'ragged' => in_array($group->code, ['short_row', 'long_row'], true),
            'refused' => $group->stage === Stage::Writing->value,
            'cells' => $this->cells((int) $take?->id, array_map(fn ($r) => (int) $r->row_no, $rows), $positions),
        ];
    }

    /**
     * @return array{Rule|null, list<int>} the rule that rejected the rows, and the columns it reads; those of the key where there is
     *                                     none
     */
    private function readsFrom(Load $load, ?Take $take, CauseGroup $group): array
    {
        $columns = $take?->tidyColumns() ?? Columns::fromArray([]);
        $field = explode(', ', (string) $group->field)[0];
        $written = $field === '' ? null : $load->rules()->where('field', $field)->value('expression');
        try {
            $rule = $written === null ? null : (new Compiler($columns))->compile((string) $written);
        } catch (ExpressionError) {
            $rule = null;
        }

        return $rule !== null ? [$rule, $rule->columns] : [
            null,
            array_values(array_filter(
                array_map(fn (string $name) => $columns->find($name)?->position, $load->key_columns),
                fn (?int $at) => $at !== null,
            )),
        ];
    }

    /**
     * Address of the rule sheet with the first of the rows, at the rule that rejected them.
     *
     * @param  array<int, object>  $rows
     */
    private function sheet(Page $page, int $load, array $rows, CauseGroup $group): string
    {
        // The sheet shows rows of the newest take, where these numbers may be those of other rows.
        $listed = $page->all()->get($load);
        $isNewest = $page->take($load)?->id === $listed?->take;
        $numbers = implode(',', array_column(array_slice($rows, 0, 3), 'row_no'));
        $field = explode(', ', (string) $group->field)[0];

        return $page->url('mapping', $listed?->entity)."?load=$load".($isNewest ? "&rows=$numbers" : '')."#rule-$field";
    }

    /**
     * @param  list<int>  $rows
     * @param  list<int>  $positions
     * @return array<int, list<string|null>>
     */
    private function cells(int $take, array $rows, array $positions): array
    {
        $found = StagedRows::cells($take, $rows);

        return array_map(fn (array $cells) => array_map(fn (int $i) => $cells[$i] ?? null, $positions), $found);
    }
}
