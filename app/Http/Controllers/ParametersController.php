<?php

namespace App\Http\Controllers;

use App\Mapping\Waiting;
use App\Models\Audit;
use App\Models\Migration;
use App\Models\Parameter;
use App\Support\Meanwhile;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Values that are asked for when a round begins. */
final class ParametersController extends Controller
{
    public function store(Request $request, Migration $migration, Waiting $due): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate(
            [
                'name' => ['required', 'regex:/^[a-z][a-z0-9_]{0,59}$/'],
                'prompt' => 'required|string|max:250',
                'default_value' => 'nullable|string|max:250',
            ],
            ['name.regex' => 'A parameter is named with small letters, digits and _.'],
        );
        $is = ['prompt' => $data['prompt'], 'default_value' => $data['default_value'] ?? null];
        $parameter = $migration->parameters()->firstOrCreate(['name' => $data['name']], $is);
        $changed = Meanwhile::change($parameter, $this->was($request, $data['name']), $is, [
            'prompt' => "What $data[name] asks",
            'default_value' => "The default of $data[name]",
        ]);
        Audit::note($migration->id, "stated the parameter $data[name]", $parameter->wasRecentlyCreated ? $is : $changed);
        $due->changed($migration);

        return back()->with('told', "Use it in a rule or a scope: parameter('$data[name]').");
    }

    /** The form shows all there are; one of a name it does not show is another's. */
    private function was(Request $request, string $name): ?string
    {
        $shown = json_decode((string) $request->input('was'), true);

        return is_array($shown) ? json_encode($shown[$name] ?? ['prompt' => '', 'default_value' => '']) ?: null : null;
    }

    public function destroy(Migration $migration, Parameter $parameter): RedirectResponse
    {
        $this->authorize('delete', $migration);
        $using = $migration
            ->loads()
            ->with('rules')
            ->get()
            ->filter(
                fn ($l) => str_contains(
                    $l->scope.$l->rules->pluck('expression')->implode(' '),
                    "parameter('$parameter->name')",
                ),
            )
            ->pluck('name')
            ->implode(', ');
        if ($using !== '') {
            return back()->with('refused', "Rules use it: $using.");
        }
        $parameter->delete();
        Audit::note($migration->id, "removed the parameter $parameter->name", [
            'before' => $parameter->only(['prompt', 'default_value']),
        ]);

        return back();
    }
}
