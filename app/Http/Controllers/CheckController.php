<?php

namespace App\Http\Controllers;

use App\Catalogue\Definitions;
use App\Jobs\CheckLoad;
use App\Mapping\LoadChecker;
use App\Models\Load;
use App\Models\LoadCheck;
use App\Models\Migration;
use App\Support\Audit;
use Illuminate\Http\RedirectResponse;
use Illuminate\View\View;

/** The check of a load before any run. */
final class CheckController extends Controller
{
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
