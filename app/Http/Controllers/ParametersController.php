<?php

namespace App\Http\Controllers;

use App\Mapping\Waiting;
use App\Models\Audit;
use App\Models\Migration;
use App\Models\Parameter;
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
        $migration
            ->parameters()
            ->updateOrCreate(
                ['name' => $data['name']],
                ['prompt' => $data['prompt'], 'default_value' => $data['default_value'] ?? null],
            );
        Audit::note($migration->id, "stated the parameter $data[name]", $data);
        $due->changed($migration);

        return back()->with('told', "Use it in a rule or a scope: parameter('$data[name]').");
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
        Audit::note($migration->id, "removed the parameter $parameter->name");

        return back();
    }
}
