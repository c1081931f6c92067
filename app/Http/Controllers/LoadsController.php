<?php

namespace App\Http\Controllers;

use App\Catalogue\Definitions;
use App\Catalogue\KnownReferences;
use App\Http\Requests\LoadSettings;
use App\Mapping\RuleBook;
use App\Mapping\RuleConflict;
use App\Mapping\Shelf;
use App\Mapping\Suggestions;
use App\Mapping\Waiting;
use App\Models\Audit;
use App\Models\Load;
use App\Models\Migration;
use App\Support\Meanwhile;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Loads, what they read and by which key, and rules taken over into them. */
final class LoadsController extends Controller
{
    public function store(Request $request, Migration $migration): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate([
            'entity' => 'required|string',
            'extract' => 'required|integer',
            'name' => 'required|string|max:100',
        ]);
        $entity = $migration->entities()->where('name', $data['entity'])->firstOrFail();
        $extract = $migration->extracts()
            ->findOrFail($data['extract']);
        if ($migration->loads()->where('name', $data['name'])->exists()) {
            return back()->with('refused', "There is a load named \"$data[name]\" already.");
        }
        $key = KnownReferences::key($extract);
        if ($key === []) {
            return back()->with('refused', 'Nothing of this extract is frozen yet.');
        }
        $load = $migration
            ->loads()
            ->create([
                'entity_id' => $entity->id,
                'extract_id' => $extract->id,
                'name' => $data['name'],
                'position' => (int) $migration->loads()->max('position') + 1,
                'key_columns' => $key,
            ]);
        Audit::note($migration->id, "added load $data[name]");

        return redirect("/m/$migration->id/mapping/$entity->name?load=$load->id")->with(
            'told',
            "The load reads $extract->name by the key ".implode(' + ', $key)
                .', as its profile suggests. See whether that is right, then write its rules.',
        );
    }

    public function settings(LoadSettings $request, Migration $migration, Load $load, Waiting $due): RedirectResponse
    {
        $scope = $request->scope();
        try {
            if ($scope !== null) {
                (new Compiler($load->extract->tidyColumns()))->compile($scope);
            }
        } catch (ExpressionError $e) {
            return back()->with('refused', 'The scope was not kept: '.$e->getMessage())->withInput();
        }
        if ($scope !== null && $request->scopeReason() === null) {
            return back()
                ->with('refused', 'Say why the other rows are left out; the reason stands on the count proof.')
                ->withInput();
        }
        $changed = Meanwhile::change($load, $request->input('was'), $request->settings($load), Load::SETTINGS);
        Audit::note($migration->id, "changed feed, key and scope of $load->name", $changed);
        $due->changed($migration);
        $alike = $load->compareAlike();

        return back()->with(
            'told',
            'Kept.'
                .($alike === [] ? '' : ' Keys are compared alike in '.implode(', ', $alike).' now, which shares them.'),
        );
    }

    /** A column from the shelf straight into a field that has no rule yet. */
    public function map(Request $request, Migration $migration, Load $load, RuleBook $book): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate(['column' => 'required|string', 'field' => 'required|string']);
        $rule = $load->rules()->where('field', $data['field'])->first();
        if ($rule?->expression !== null) {
            return back()->with('refused', "The field $data[field] has a rule already.");
        }
        try {
            $refers = ($load->entity->described()->writable()[$data['field']] ?? null)?->refers;
            $book->write(
                $load,
                $data['field'],
                $rule->version ?? 0,
                $refers === null ? $data['column'] : KnownReferences::rule($load, $data['column']),
                null,
                null,
                $request->user(),
            );
        } catch (RuleConflict|ExpressionError $e) {
            return back()->with('refused', $e->getMessage());
        }

        return redirect("/m/$migration->id/mapping/{$load->entity->name}?load=$load->id#rule-$data[field]");
    }

    /** Takes over suggested rules: one, some or all; nothing is mapped unseen. */
    public function suggested(Request $request, Migration $migration, Load $load, RuleBook $book): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate(
            ['fields' => 'required|array', 'fields.*' => 'string'],
            ['fields.required' => 'No suggestion is ticked, so nothing was mapped.'],
        );
        $definitions = new Definitions($migration);
        $load = $definitions->loads()->firstWhere('id', $load->id) ?? $load;
        $suggestions = Suggestions::of($definitions, $load);
        $taken = [];
        // The button beside a single one sends the ticked ones too.
        foreach ($request->filled('only') ? [(string) $request->query('only')] : $data['fields'] as $field) {
            if (! isset($suggestions[$field])) {
                continue;
            }
            try {
                $book->write(
                    $load,
                    $field,
                    $load->rules->firstWhere('field', $field)->version ?? 0,
                    $suggestions[$field]->expression,
                    null,
                    null,
                    $request->user(),
                );
                $taken[] = $field;
            } catch (RuleConflict|ExpressionError $e) {
                return back()->with('refused', "$field: {$e->getMessage()}");
            }
        }

        return redirect("/m/$migration->id/mapping/{$load->entity->name}?load=$load->id")->with('suggestions', true)->with(
            $taken === [] ? 'refused' : 'told',
            $taken === []
                ? 'These suggestions do not stand any more: somebody has written rules.'
                : 'Mapped as suggested: '.implode(', ', array_slice($taken, 0, 8))
                    .(count($taken) > 8 ? ' and '.(count($taken) - 8).' more' : '').'. Check them.',
        );
    }
}
