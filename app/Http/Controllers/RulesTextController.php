<?php

namespace App\Http\Controllers;

use App\Mapping\RuleBook;
use App\Mapping\RuleConflict;
use App\Mapping\RulesDraft;
use App\Models\Load;
use App\Models\Migration;
use App\Models\RuleVersion;
use App\View\Page;
use App\View\Say;
use App\View\Tables\MappingTables;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Mapping\HeaderNames;
use Baggage\Core\Mapping\RulesText;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** All rules of a load as one text, checked as it is typed. */
final class RulesTextController extends Controller
{
    public function show(Request $request, Migration $migration, Load $load): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $rules = RulesDraft::rules($load);
        $names = HeaderNames::tryFrom((string) $request->query('names'));
        $proposed = [];
        $meets = [];
        foreach ($names === null ? [] : $load->extract->tidyColumns()->all as $column) {
            $name = $names->of($column->header);
            $field = collect(array_keys($rules))->first(fn ($f) => $names->of((string) $f) === $name);
            $meets[] = ['header' => $column->header, 'name' => $name, 'field' => $field];
            if ($field !== null && $rules[$field] === ['rule' => null, 'empty' => null]) {
                $rules[$field]['rule'] = $column->name;
                $proposed[] = $field;
            }
        }
        $text = old('text', RulesText::write($rules));

        return $this->screen('mapping.text', [
            'page' => Page::ofLoad($migration, 'mapping', $load),
            'load' => $load,
            'text' => $text,
            'draft' => RulesDraft::of($load, $text),
            'names' => $names,
            'meets' => $meets,
            'headers' => MappingTables::headers($request, $meets),
            'proposed' => $proposed,
            'since' => (int) RuleVersion::query()->where('load_id', $load->id)->max('id'),
        ]);
    }

    public function look(Request $request, Migration $migration, Load $load): View
    {
        $this->authorize('view', $migration);

        return view('mapping.text-draft', [
            'draft' => RulesDraft::of($load, mb_substr((string) $request->input('text'), 0, 200_000)),
        ]);
    }

    public function keep(Request $request, Migration $migration, Load $load, RuleBook $book): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate(['text' => 'required|string|max:200000', 'since' => 'required|integer']);
        $draft = RulesDraft::of($load, $data['text']);
        if ($draft->problems !== []) {
            return $this->refused(Say::count(count($draft->problems), 'line').' cannot be understood.');
        }
        $others = RuleVersion::query()
            ->where('load_id', $load->id)
            ->where('id', '>', $data['since'])
            ->whereIn('field', array_column($draft->changes, 'field'))
            ->pluck('field')
            ->unique();
        if ($others->isNotEmpty()) {
            return $this->refused(
                'since you opened the text somebody changed '.$others->implode(', ')
                    .'. What they say now stands in the list below; your text is still here.',
            );
        }
        try {
            $draft->keep($book, $request->user());
        } catch (RuleConflict|ExpressionError $e) {
            return $this->refused($e->getMessage());
        }

        return redirect("/m/$migration->id/mapping/{$load->entity->name}?load=$load->id")->with(
            'told',
            Say::count(count($draft->changes), 'rule').' kept.',
        );
    }

    private function refused(string $why): RedirectResponse
    {
        return back()
            ->withInput()
            ->with('refused', "Nothing was kept: $why");
    }
}
