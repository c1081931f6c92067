<?php

namespace App\Http\Controllers;

use App\Http\Requests\TargetConnection;
use App\Looking\LookGoing;
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
    public function index(Request $request, Migration $migration): View
    {
        $this->authorize('view', $migration);
        $tried = $migration->targets()->find($request->integer('tried'));

        return view('target.connections', ($tried === null ? [] : $this->tried($tried)) + [
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

        return $this->trying($target);
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

        return $this->trying($target);
    }

    public function attempt(Migration $migration, Target $target): RedirectResponse
    {
        $this->authorize('work', $migration);

        return $this->trying($target);
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

    /** @return array{said: string|null, refused: string|null, going: string|null} what came of asking it */
    private function tried(Target $target): array
    {
        $this->authorize('work', $target->migration);
        $of = ['said' => null, 'refused' => null, 'going' => null];
        try {
            $found = count(Ports::schemaOf($target)->entities);

            return ['said' => "$target->name answers: ".Say::count($found, 'table').' with a key of one column.'] + $of;
        } catch (TargetUnavailable $e) {
            return ['refused' => $e->getMessage()] + $of;
        } catch (LookGoing $e) {
            return ['going' => $e->getMessage()] + $of;
        }
    }

    /** What is described is kept; whether it answers is asked by the page. */
    private function trying(Target $target): RedirectResponse
    {
        return redirect("/m/$target->migration_id/connections?tried=$target->id");
    }
}
