<?php

namespace App\Http\Controllers;

use App\Mending\Kind;
use App\Mending\RemoveThing;
use App\Models\Audit;
use App\Models\Migration;
use App\Models\Work;
use App\Models\WorkKind;
use App\Models\WorkState;
use App\Support\Meanwhile;
use App\View\Page;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Things of a migration renamed, changed and removed; what hangs on them is shown first. */
final class MendingController extends Controller
{
    public function show(Migration $migration, string $kind, int $id): View
    {
        $this->authorize('work', $migration);
        $of = Kind::from($kind);
        $thing = $of->find($migration, $id);

        return view('mending.show', [
            'page' => Page::of($migration, $of->stop()),
            'kind' => $of,
            'id' => $id,
            'thing' => $thing,
            'works' => Work::toShow($migration),
        ]);
    }

    public function update(Request $request, Migration $migration, string $kind, int $id): RedirectResponse
    {
        $this->authorize('work', $migration);
        $of = Kind::from($kind);
        $thing = $of->find($migration, $id);
        $of->isGrave() && $of !== Kind::Round ? $this->confirmed($request) : null;
        [$fields, $values, $labels] = [$thing->fields(), [], []];
        foreach ($fields as $name => $field) {
            $given = trim((string) $request->input($name));
            if ($request->has($name) && $given !== $field['value']) {
                $values[$name] = $given;
            }
            $labels[$name] = $field['label'];
        }
        $open = array_filter($fields, fn (array $f) => ! ($f['secret'] ?? false));
        $now = array_map(fn (array $f) => $f['value'], $open);
        Meanwhile::check($request->input('was'), $now, array_intersect_key($values, $open), array_intersect_key($labels, $open));
        if ($values === []) {
            return back()->with('refused', 'It says that already; nothing was changed.');
        }

        return $this->doing(function () use ($migration, $thing, $values, $now) {
            $before = $thing->label();
            $thing->change($values);
            Audit::note($migration->id, "changed $before", [
                'before' => array_intersect_key($now, $values),
                'after' => array_intersect_key($values, $now),
            ]);
        }, 'Kept.');
    }

    public function destroy(Request $request, Migration $migration, string $kind, int $id): RedirectResponse
    {
        $this->authorize('delete', $migration);
        $of = Kind::from($kind);
        $thing = $of->find($migration, $id);
        $of->isGrave() ? $this->confirmed($request) : null;
        if ($thing->holds() !== []) {
            return back()->with('refused', implode(' ', $thing->holds()));
        }
        [$label, $after] = [$thing->label(), $thing->after()];
        $work = Work::ask($migration, WorkKind::Remove, "Removing $label", ['kind' => $kind, 'id' => $id, 'label' => $label], 0);
        RemoveThing::dispatch($work->id);
        $ended = Work::query()->find($work->id);

        return match (true) {
            // With the migration its work is gone, too.
            $ended === null => redirect($after)->with('told', ucfirst($label).' is gone.'),
            $ended->isGoing() => redirect($after)->with('told', "Removing $label: a worker does it."),
            default => $this->ended($ended, $after),
        };
    }

    private function ended(Work $work, string $after): RedirectResponse
    {
        $work->update(['seen' => true]);

        return $work->state === WorkState::Done
            ? redirect($after)->with('told', (string) $work->told)
            : back()->with('refused', (string) $work->told);
    }
}
