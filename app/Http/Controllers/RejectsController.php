<?php

namespace App\Http\Controllers;

use App\Ledger\CauseReader;
use App\Ledger\DueBook;
use App\Ledger\LedgerReader;
use App\Ledger\Links;
use App\Ledger\WaiverBook;
use App\Models\CodeCrosswalk;
use App\Models\Load;
use App\Models\Migration;
use App\Models\Round;
use App\Models\Waiver;
use App\Rejects\CauseGroup;
use App\Rejects\CauseList;
use App\Rejects\CorrectionList;
use App\Staging\StagedRows;
use App\View\Page;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\Stage;
use Illuminate\Http\Request;
use Illuminate\View\View;

final class RejectsController extends Controller
{
    /** Lines shown at a time of what was left behind, and of corrections that wait for a decision. */
    private const LEFT = 50;

    private const CORRECTIONS = 50;

    public function index(Request $request, Migration $migration, ?string $entity = null): View
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'rejects', $entity);
        $round = $page->round;
        if ($round === null || $page->orderError !== null) {
            return view('rejects.none', ['page' => $page]);
        }
        $causes = new CauseReader($round->laneId());
        $list = new CauseList($causes, new DueBook($round->laneId()));
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
                fn ($l) => (int) $l->waiting + (int) $l->waived > 0 && in_array((int) $l->load_id, $loads, true),
            ),
            'counts' => $this->counts($page),
            'left' => $this->left($round, $causes, $loads),
            'toConfirm' => $round->hasEnded() ? [] : WaiverBook::toConfirm($round),
            'undecided' => CorrectionList::waiting($migration, self::CORRECTIONS),
            'undecidedAll' => CorrectionList::countWaiting($migration),
        ]);
    }

    /**
     * @param  list<int>  $loads
     * @return list<array{cause: \stdClass, waiver: Waiver|null}> what was left behind, and why
     */
    private function left(Round $round, CauseReader $causes, array $loads): array
    {
        $found = $causes->leftBehind($loads, self::LEFT);
        $waivers = [];
        foreach (collect($found)->groupBy('load_id') as $load => $of) {
            $waivers[$load] = WaiverBook::newest($round, (int) $load, $of->pluck('waive_hash')->all());
        }

        return array_map(fn ($c) => ['cause' => $c, 'waiver' => $waivers[$c->load_id][$c->waive_hash] ?? null], $found);
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
        $load = $page->definitions->loads()->firstWhere('id', $group->load) ?? abort(404);
        $values = $list->values($group);
        $causes = array_map(fn ($v) => (int) $v->id, $values);
        $rows = (new LedgerReader($round))->rejected($load, $causes, 8);
        $take = $page->take($load);
        $columns = $take?->tidyColumns() ?? $load->extract->tidyColumns();
        try {
            $rule = $group->field === null
                ? null
                : $page->definitions->mapper($load, $columns)->rules()[explode(', ', $group->field)[0]] ?? null;
            $keys = $page->definitions->mapper($load, $columns)->keyPositions();
        } catch (DefinitionError) {
            [$rule, $keys] = [null, []];
        }
        $headers = array_map(fn (int $i) => $columns->all[$i]->header, $rule === null ? $keys : $rule->columns);

        return [
            'load' => $load,
            'values' => $values,
            'rows' => $rows,
            'headers' => $headers,
            'rule' => $rule,
            'crosswalk' => $rule === null ? null : $this->crosswalk($page, $group, $rule->codes[0] ?? ''),
            'sheet' => $this->sheet($page, $load, $rows, $group),
            'waived' => WaiverBook::newest($round, $load->id, array_map(fn ($v) => $v->waive_hash, $values)),
            'ragged' => in_array($group->code, ['short_row', 'long_row'], true),
            'refused' => $group->stage === Stage::Writing->value,
            'cells' => $this->cells(
                (int) $take?->id,
                array_map(fn ($r) => (int) $r->row_no, $rows),
                $rule === null ? $keys : $rule->columns,
            ),
        ];
    }

    /** The code crosswalk whose missing or refused value the rows failed for. */
    private function crosswalk(Page $page, CauseGroup $group, string $name): ?CodeCrosswalk
    {
        return in_array($group->code, ['no_new_value', 'code_rejected'], true)
            ? CodeCrosswalk::query()->where('migration_id', $page->migration->id)->where('name', $name)->first()
            : null;
    }

    /**
     * Address of the rule sheet with the first of the rows, at the rule that rejected them.
     *
     * @param  array<int, object>  $rows
     */
    private function sheet(Page $page, Load $load, array $rows, CauseGroup $group): string
    {
        // The sheet shows rows of the newest take, where these numbers may be those of other rows.
        $isNewest = $page->take($load)?->id === $load->extract->take_id;
        $numbers = implode(',', array_column(array_slice($rows, 0, 3), 'row_no'));
        $field = explode(', ', (string) $group->field)[0];

        return "{$page->url('mapping', $load->entity->name)}?load=$load->id".($isNewest ? "&rows=$numbers" : '')."#rule-$field";
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
