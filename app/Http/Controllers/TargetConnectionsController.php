<?php

namespace App\Http\Controllers;

use App\Http\Requests\TargetConnection;
use App\Models\Audit;
use App\Models\Migration;
use App\Models\Target;
use App\Support\Meanwhile;
use App\Targets\Ports;
use App\View\Page;
use App\View\Say;
use Baggage\Core\Loading\TargetUnavailable;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\View\View;

/** The databases of the new application that rounds may write into: described, mended, tried and removed. */
final class TargetConnectionsController extends Controller
{
    public function index(Migration $migration): View
    {
        $this->authorize('view', $migration);

        return view('target.connections', [
            'page' => Page::of($migration, 'target'),
            'targets' => $migration->targets()->with('rounds')->orderBy('id')->get(),
        ]);
    }

    public function store(TargetConnection $request, Migration $migration): RedirectResponse
    {
        $this->confirmed($request);
        $target = $migration->targets()->create($request->settings() + ['password' => '']);
        $place = $target->only(['host', 'port', 'database', 'username']);
        Audit::note($migration->id, "described the target connection $target->name", $place);

        return $this->tried($target);
    }

    public function update(
        TargetConnection $request,
        Migration $migration,
        Target $target,
    ): RedirectResponse {
        $this->confirmed($request);
        $changed = Meanwhile::change($target, $request->input('was'), $request->settings(), Target::PLACE);
        Audit::note($migration->id, "changed the target connection $target->name", $changed + [
            'password' => $request->filled('password') ? 'given anew' : null,
        ]);

        return $this->tried($target);
    }

    public function attempt(Migration $migration, Target $target): RedirectResponse
    {
        $this->authorize('work', $migration);

        return $this->tried($target);
    }

    public function destroy(Request $request, Migration $migration, Target $target): RedirectResponse
    {
        $this->authorize('delete', $migration);
        $this->confirmed($request);
        if ($target->rounds()->exists()) {
            return back()->with('refused', "Rounds were begun into $target->name: what they say of it needs the connection.");
        }
        if ($migration->targets()->count() === 1) {
            return back()->with('refused', "$target->name is the only connection: describe another one first.");
        }
        $target->delete();
        Audit::note($migration->id, "removed the target connection $target->name", [
            'before' => $target->only(['host', 'port', 'database']),
        ]);

        return back()->with('told', "The connection $target->name is gone.");
    }

    private function tried(Target $target): RedirectResponse
    {
        try {
            $found = count(Ports::schemaOf($target->refresh())->entities);
        } catch (TargetUnavailable $e) {
            return redirect("/m/$target->migration_id/connections")->with('refused', $e->getMessage());
        }

        return redirect("/m/$target->migration_id/connections")->with(
            'told',
            "$target->name answers: ".Say::count($found, 'table').' with a key of one column.',
        );
    }
}
