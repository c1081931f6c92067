<?php

namespace App\Http\Controllers;

use App\Ledger\CauseReader;
use App\Ledger\LedgerReader;
use App\Ledger\Links;
use App\Models\CodeCrosswalk;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Round;
use App\Rejects\CauseGroup;
use App\Rejects\CauseList;
use App\Rejects\Repairs;
use App\Staging\StagedRows;
use App\View\Page;
use App\View\Say;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Rows\Outcome;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\View\View;

final class RejectsController extends Controller
{
    public function __construct(private readonly Repairs $repairs)
    {
    }

    public function index(Request $request, Migration $migration, ?string $entity = null): View
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'rejects', $entity);
        $round = $page->round;
        if ($round === null || $page->orderError !== null) {
            return view('rejects.none', ['page' => $page]);
        }
        $causes = new CauseReader($round->laneId());
        $list = new CauseList($causes);
        $loads = $page->loads()->pluck('id')->all();
        $groups = $list->groups($loads);
        $open = null;
        foreach ($groups as $group) {
            if ($group->id() === $request->query('cause')) {
                $open = $group;
            }
        }

        return view('rejects.index', [
            'page' => $page,
            'groups' => $groups,
            'open' => $open,
            'detail' => $open === null ? null : $this->detail($page, $round, $list, $open),
            'held' => $causes->parentsThatHold($loads, 50),
            'links' => array_filter(
                (new Links($round->laneId()))->counts(),
                fn ($l) => (int) $l->waiting > 0 && in_array((int) $l->load_id, $loads, true),
            ),
            'counts' => $this->counts($page),
            'pendingAll' => $page->repaired(),
        ]);
    }

    public function value(Request $request, Migration $migration, Load $load): RedirectResponse
    {
        [$round, $data] = $this->ready($request, $migration, $load, [
            'cause' => 'required|integer',
            'header' => 'required|string',
            'new' => 'nullable|string|max:4000',
            'reason' => 'nullable|string|max:500',
        ]);

        return $this->answer(
            fn () => $this->repairs->correctValue(
                $round,
                $load,
                (int) $data['cause'],
                $data['header'],
                $data['new'] ?? '',
                (string) ($data['reason'] ?? ''),
            ),
        );
    }

    public function cell(Request $request, Migration $migration, Load $load, int $row): RedirectResponse
    {
        [$round, $data] = $this->ready($request, $migration, $load, [
            'header' => 'required|string',
            'new' => 'nullable|string|max:4000',
            'reason' => 'nullable|string|max:500',
        ]);

        return $this->answer(
            fn () => $this->repairs->correctCell(
                $round,
                $load->extract,
                $row,
                $data['header'],
                $data['new'] ?? '',
                (string) ($data['reason'] ?? ''),
            ),
        );
    }

    public function waive(Request $request, Migration $migration, Load $load): RedirectResponse
    {
        [$round, $data] = $this->ready($request, $migration, $load, [
            'cause' => 'required|integer',
            'reason' => 'required|string|max:500',
        ]);
        $n = $this->repairs->waive($round, $load, (int) $data['cause'], $data['reason']);

        return back()->with('told', Say::count($n, 'row').' waived.');
    }

    /**
     * @param  array<string, string>  $rules
     * @return array{Round, array<string, string|null>}
     */
    private function ready(Request $request, Migration $migration, Load $load, array $rules): array
    {
        $this->authorize('repair', $migration);
        $round = Page::of($migration, 'rejects')->round ?? abort(404);

        return [$round, $request->validate($rules)];
    }

    /** @param  \Closure(): int  $repair */
    private function answer(\Closure $repair): RedirectResponse
    {
        try {
            $n = $repair();
        } catch (\DomainException $e) {
            return back()->with('refused', $e->getMessage());
        }

        return back()->with(
            'told',
            $n === 0
                ? 'The correction is kept. No rejected row waits for it.'
                : Say::count($n, 'row').' repaired. Load '.($n === 1 ? 'it' : 'them').' again when you are ready.',
        );
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

        return $sum + ['pending' => $page->repaired($page->loads())];
    }

    /** @return array<string, mixed> what the opened cause shows */
    private function detail(Page $page, Round $round, CauseList $list, CauseGroup $group): array
    {
        $load = $page->definitions->loads()->firstWhere('id', $group->load) ?? abort(404);
        $values = $list->values($group);
        $causes = array_map(fn ($v) => (int) $v->id, $values);
        $rows = (new LedgerReader($round))->rejected($load, $causes, 8);
        $columns = $load->extract->tidyColumns();
        try {
            $rule = $group->field === null
                ? null
                : $page->definitions->mapper($load)->rules()[explode(', ', $group->field)[0]] ?? null;
            $keys = $page->definitions->mapper($load)->keyPositions();
        } catch (DefinitionError) {
            [$rule, $keys] = [null, []];
        }
        $headers = array_map(fn (int $i) => $columns->all[$i]->header, $rule === null ? $keys : $rule->columns);
        $crosswalk = in_array($group->code, ['no_new_value', 'code_rejected'], true) && $rule !== null && $rule->codes !== []
            ? CodeCrosswalk::query()
                ->where('migration_id', $page->migration->id)
                ->where('name', $rule->codes[0])
                ->first()
            : null;

        return [
            'load' => $load,
            'values' => $values,
            'rows' => $rows,
            'headers' => $headers,
            'rule' => $rule,
            'crosswalk' => $crosswalk,
            'sheet' => $this->sheet($page, $load, $rows, $group),
            'cells' => $this->cells(
                $load,
                array_map(fn ($r) => (int) $r->row_no, $rows),
                $rule === null ? $keys : $rule->columns,
            ),
        ];
    }

    /**
     * Address of the rule sheet with the first of the rows, at the rule that rejected them.
     *
     * @param  array<int, object>  $rows
     */
    private function sheet(Page $page, Load $load, array $rows, CauseGroup $group): string
    {
        $numbers = implode(',', array_column(array_slice($rows, 0, 3), 'row_no'));
        $field = explode(', ', (string) $group->field)[0];

        return "{$page->url('mapping', $load->entity->name)}?load=$load->id&rows=$numbers#rule-$field";
    }

    /**
     * @param  list<int>  $rows
     * @param  list<int>  $positions
     * @return array<int, list<string|null>>
     */
    private function cells(Load $load, array $rows, array $positions): array
    {
        $found = StagedRows::cells((int) $load->extract->take_id, $rows);

        return array_map(fn (array $cells) => array_map(fn (int $i) => $cells[$i] ?? null, $positions), $found);
    }
}
