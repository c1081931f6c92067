<?php

namespace App\Http\Controllers;

use App\Catalogue\Definitions;
use App\Jobs\CheckLoad;
use App\Mapping\LoadChecker;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Models\Migration;
use App\Staging\StagedRows;
use App\Support\Audit;
use App\View\Page;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;
use Illuminate\View\View;

/** The check of a load before any run. */
final class CheckController extends Controller
{
    private const PAGE = 50;

    public function start(Migration $migration, Load $load): RedirectResponse
    {
        $this->authorize('work', $migration);
        abort_unless($load->migration_id === $migration->id, 404);
        $check = LoadCheck::query()->firstOrNew(['load_id' => $load->id]);
        if ($check->exists && $check->isGoing()) {
            return back()->with('refused', "\"$load->name\" is being checked right now.");
        }
        $check->fill(['fingerprint' => '', 'state' => 'queued', 'result' => null, 'error' => null, 'rows_done' => 0, 'finished_at' => null])->save();
        Audit::note($migration->id, "checked load $load->name");
        CheckLoad::dispatch($check->id);

        return redirect("/m/$migration->id/mapping/{$load->entity->name}?load=$load->id");
    }

    public function show(Migration $migration, Load $load): View
    {
        $this->authorize('view', $migration);
        abort_unless($load->migration_id === $migration->id, 404);

        return view('mapping.check', self::data($migration, new Definitions($migration), $load));
    }

    /** All rows one cause of the check is about. */
    public function rows(Request $request, Migration $migration, Load $load, int $cause): View
    {
        $this->authorize('view', $migration);
        abort_unless($load->migration_id === $migration->id, 404);
        $page = new Page($migration, 'mapping', $load->entity->name);
        $data = self::data($migration, $page->definitions, $load);
        $load = $data['load'];
        $check = $data['check']?->state === 'done' ? $data['check'] : abort(404);
        $found = collect([...$check->result['causes'] ?? [], ...$check->result['others'] ?? []])->firstWhere('number', $cause) ?? abort(404);
        $columns = $load->extract->tidyColumns();
        // Another take numbers its rows anew.
        $same = ($check->result['take'] ?? null) === $load->extract->take_id;
        $numbers = $same ? DB::table('check_rows')->where('check_id', $check->id)->where('cause', $cause)->where('row_no', '>', $request->integer('after'))->orderBy('row_no')->limit(self::PAGE + 1)->pluck('row_no')->map(intval(...))->all() : [];
        $shown = array_slice($numbers, 0, self::PAGE);
        $rows = (new StagedRows((int) $load->extract->take_id, $load->extract_id, $columns->byHeader()))->numbered($shown);
        $rule = (string) $load->rules->firstWhere('field', $found['field'])?->expression;
        $used = array_filter($columns->all, fn ($c) => $found['field'] === null ? in_array($c->name, $load->key_columns, true) : preg_match('/\b'.preg_quote($c->name, '/').'\b/', $rule) === 1 || str_contains($rule, "'$c->header'"));

        return view('mapping.check-rows', $data + ['page' => $page, 'cause' => $found, 'same' => $same, 'rows' => $rows, 'used' => array_column($used, 'position'), 'width' => $columns->count(),
            'columns' => array_slice([...$used, ...array_diff_key($columns->all, $used)], 0, 12), 'next' => count($numbers) > self::PAGE ? end($shown) : null]);
    }

    public function stop(Migration $migration, Load $load): RedirectResponse
    {
        $this->authorize('work', $migration);
        abort_unless($load->migration_id === $migration->id, 404);
        LoadCheck::query()->where('load_id', $load->id)->whereIn('state', ['queued', 'running'])->update(['state' => 'stopping']);

        return redirect("/m/$migration->id/mapping/{$load->entity->name}?load=$load->id");
    }

    /** @return array{migration: Migration, load: Load, check: LoadCheck|null, stale: bool} */
    public static function data(Migration $migration, Definitions $definitions, Load $load): array
    {
        $check = LoadCheck::query()->where('load_id', $load->id)->first();
        $load = $definitions->loads()->firstWhere('id', $load->id) ?? $load;

        return ['migration' => $migration, 'load' => $load, 'check' => $check, 'stale' => $check?->state === 'done' && $check->fingerprint !== LoadChecker::fingerprint($definitions, $load)];
    }
}
