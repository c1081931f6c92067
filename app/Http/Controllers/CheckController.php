<?php

namespace App\Http\Controllers;

use App\Catalogue\Definitions;
use App\Mapping\CheckLoad;
use App\Mapping\CheckRows;
use App\Models\Audit;
use App\Models\CheckState;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Models\Migration;
use App\Staging\StagedRows;
use App\View\CheckOfLoad;
use App\View\Page;
use Baggage\Core\Mapping\Check;
use Baggage\Core\Mapping\DefinitionError;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\View\View;

/** The check of a load before any run. */
final class CheckController extends Controller
{
    /** Columns shown of a row. */
    private const WIDTH = 12;

    public function start(Migration $migration, Load $load): RedirectResponse
    {
        $this->authorize('work', $migration);
        $check = LoadCheck::query()->firstOrNew(['load_id' => $load->id]);
        if ($check->exists && $check->isGoing()) {
            return back()->with('refused', "\"$load->name\" is being checked right now.");
        }
        $check
            ->fill([
                'hash' => '',
                'state' => CheckState::Queued,
                'result' => null,
                'error' => null,
                'rows_done' => 0,
                'finished_at' => null,
                'attempts' => 0,
            ])
            ->save();
        Audit::note($migration->id, "checked load $load->name");
        CheckLoad::dispatch($check->id);

        return redirect("/m/$migration->id/mapping/{$load->entity->name}?load=$load->id");
    }

    public function show(Migration $migration, Load $load): View
    {
        $this->authorize('view', $migration);

        return view('mapping.check', CheckOfLoad::data($migration, new Definitions($migration), $load));
    }

    /** All rows one cause of the check is about. */
    public function rows(Request $request, Migration $migration, Load $load, int $cause): View
    {
        $this->authorize('view', $migration);
        $page = Page::ofLoad($migration, 'mapping', $load);
        $data = CheckOfLoad::data($migration, $page->definitions, $load, $page->overview->basis);
        $load = $data['load'];
        $check = $data['check']?->state === CheckState::Done ? $data['check'] : abort(404);
        $outside = [
            'number' => Check::OUTSIDE,
            'message' => 'Outside the scope',
            'field' => null,
            'n' => (int) ($check->result['excluded'] ?? 0),
        ];
        $found = collect([...$check->result['causes'] ?? [], ...$check->result['others'] ?? [], $outside])->firstWhere(
            'number',
            $cause,
        ) ?? abort(404);
        $columns = $load->extract->tidyColumns();
        // Another take numbers its rows anew.
        $same = ($check->result['take'] ?? null) === $load->extract->take_id;
        $numbers = CheckRows::page($check, $same ? $cause : 0, $request->integer('after'));
        $rows = StagedRows::ofLoad($load)->numbered(
            $numbers->shown,
        );
        $used = array_intersect_key($columns->all, array_flip($this->columnsOf($page->definitions, $load, $found)));

        return view(
            'mapping.check-rows',
            $data + [
                'page' => $page,
                'cause' => $found,
                'same' => $same,
                'rows' => $rows,
                'used' => array_keys($used),
                'width' => $columns->count(),
                'columns' => array_slice([...$used, ...array_diff_key($columns->all, $used)], 0, self::WIDTH),
                'next' => $numbers->next,
            ],
        );
    }

    /**
     * @param  array<string, mixed>  $cause
     * @return list<int> positions of the columns it comes from
     */
    private function columnsOf(Definitions $definitions, Load $load, array $cause): array
    {
        try {
            $mapper = $definitions->mapper($load);
        } catch (DefinitionError) {
            return [];
        }
        $fields = $cause['fields'] ?? array_filter([$cause['field']]);

        return $fields === []
            ? $mapper->keyPositions()
            : array_merge(...array_map(fn ($field) => $mapper->rules()[$field]->columns ?? [], $fields));
    }

    public function stop(Migration $migration, Load $load): RedirectResponse
    {
        $this->authorize('work', $migration);
        LoadCheck::query()
            ->where('load_id', $load->id)
            ->whereIn('state', [CheckState::Queued, CheckState::Running])
            ->update(['state' => CheckState::Stopping]);

        return redirect("/m/$migration->id/mapping/{$load->entity->name}?load=$load->id");
    }
}
