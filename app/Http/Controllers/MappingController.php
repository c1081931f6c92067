<?php

namespace App\Http\Controllers;

use App\Catalogue\Definitions;
use App\Catalogue\KnownReferences;
use App\Mapping\RuleBook;
use App\Mapping\RuleConflict;
use App\Mapping\RuleSheet;
use App\Mapping\Samples;
use App\Mapping\Shelf;
use App\Mapping\Suggestions;
use App\Models\Audit;
use App\Models\ColumnDecision;
use App\Models\Correction;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Migration;
use App\Models\OutcomeRow;
use App\Models\RuleVersion;
use App\Rejects\Repairs;
use App\Staging\StagedRows;
use App\View\Page;
use App\View\RecordSent;
use App\View\Say;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Expressions\Catalogue;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Mapping\DefinitionError;
use Baggage\Core\Mapping\WritePolicy;
use Baggage\Core\Matching\Normaliser;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\View\View;

final class MappingController extends Controller
{
    public function index(Request $request, Migration $migration, ?string $entity = null): View
    {
        $this->authorize('view', $migration);
        $page = new Page($migration, 'mapping', $entity);
        $shelf = new Shelf($page->definitions);
        $extracts = $migration->extracts()
            ->whereNotNull('take_id')
            ->with('source')
            ->orderBy('source_id')
            ->orderBy('extracts.id')
            ->get();
        if ($page->entity === null || $page->orderError !== null) {
            return view('mapping.all', [
                'page' => $page,
                'unread' => $page->orderError === null ? $shelf->unread() : [],
                'parameters' => $migration->parameters()->orderBy('name')->get(),
                'loads' => $page->orderError === null ? $page->loads() : collect(),
                'shelf' => $shelf,
            ]);
        }
        $loads = $page->loads();
        $load = $loads->firstWhere('id', $request->integer('load')) ?? $loads->first();
        if ($load === null) {
            return view('mapping.none', ['page' => $page, 'extracts' => $extracts]);
        }
        $checked = CheckController::data($migration, $page->definitions, $load);
        $asked = $request->query('rows');
        if ($request->filled('pick')) {
            $asked = implode(
                ',',
                Samples::pick(
                    $load,
                    (string) $request->query('pick'),
                    $page->round,
                    $checked['check'],
                    $request->query('column'),
                    (string) $request->query('value', ''),
                ),
            )
                ?: $asked;
        }
        $rows = RuleSheet::rows($load, $asked);
        $sheet = new RuleSheet($page->definitions, $load, $rows);
        try {
            $page->definitions->mapper($load);
            $problem = null;
        } catch (DefinitionError $e) {
            $problem = $e->getMessage();
        }

        $show = in_array($request->query('show'), ['mapped', 'open'], true) ? (string) $request->query('show') : 'all';
        $fields = RuleSheet::fields($load, $show);
        $from = max(0, min($request->integer('from'), count($fields) - 1));
        $columns = in_array($request->query('columns'), ['used', 'left'], true)
            ? (string) $request->query('columns')
            : 'undecided';
        $uses = $shelf->uses($load->extract);
        $decided = ColumnDecision::query()
            ->where('extract_id', $load->extract_id)
            ->with('user')
            ->get()
            ->keyBy('header');
        $on = array_values(
            array_filter(
                $load->extract->tidyColumns()->all,
                fn ($c) => match ($columns) {
                    'used' => isset($uses[$c->position]),
                    'left' => ! isset($uses[$c->position]) && isset($decided[$c->header]),
                    default => ! isset($uses[$c->position]) && ! isset($decided[$c->header]),
                },
            ),
        );

        return view('mapping.sheet', [
            'show' => $show,
            'fields' => $fields,
            'from' => $from,
            'columnsShown' => $columns,
            'uses' => $uses,
            'on' => $on,
            'onFrom' => max(0, min($request->integer('shelf'), count($on) - 1)),
            'open' => RuleSheet::fields($load, 'open'),
            'writable' => array_keys($load->entity->described()->writable()),
            'last' => RuleVersion::query()->where('load_id', $load->id)->with('user')->latest('id')->first(),
            'page' => $page,
            'loads' => $loads,
            'load' => $load,
            'sheet' => $sheet,
            'lines' => $sheet->lines($page->round, array_slice($fields, $from, RuleSheet::PAGE)),
            'problem' => $problem,
            'extracts' => $extracts,
            'decisions' => $decided,
            'checked' => $checked,
            'words' => RuleSheet::words($load),
            'suggestions' => Suggestions::of($page->definitions, $load),
            'catalogue' => Catalogue::entries(),
            'normalisations' => KeyNormalisation::cases(),
            'policies' => WritePolicy::cases(),
            'normalisers' => Normaliser::cases(),
        ]);
    }

    /** Before → after of an expression that is still being typed. */
    public function preview(Request $request, Migration $migration, Load $load, string $field): View
    {
        $this->authorize('view', $migration);
        $this->ours($migration, $load);
        $page = new Page($migration, 'mapping', $load->entity->name);
        $load = $page->definitions->loads()->firstWhere('id', $load->id) ?? $load;
        $described = $load->entity->described()->writable()[$field] ?? abort(404);
        $sheet = new RuleSheet($page->definitions, $load, RuleSheet::rows($load, $request->input('rows')));

        return view('mapping.samples', [
            'line' => $sheet->line(
                $described,
                $load->rules->firstWhere('field', $field),
                (string) $request->input('expression'),
            ),
            'sheet' => $sheet,
        ]);
    }

    /** One line of the sheet as it stands now. */
    public function line(Request $request, Migration $migration, Load $load, string $field): View
    {
        $this->authorize('view', $migration);
        $this->ours($migration, $load);
        $described = $load->entity->described()->writable()[$field] ?? abort(404);
        $page = new Page($migration, 'mapping', $load->entity->name);
        $load = $page->definitions->loads()->firstWhere('id', $load->id) ?? $load;
        $sheet = new RuleSheet($page->definitions, $load, RuleSheet::rows($load, $request->query('rows')));
        $rule = $load->rules->firstWhere('field', $field);

        return view('mapping.line', [
            'line' => $sheet->line($described, $rule, (string) $rule?->expression),
            'sheet' => $sheet,
            'page' => $page,
            'told' => null,
            'conflict' => null,
        ]);
    }

    /** The exact record that would be sent for a row, beside the row. */
    public function record(Request $request, Migration $migration, Load $load, int $row): View
    {
        $this->authorize('view', $migration);
        $this->ours($migration, $load);
        $page = new Page($migration, 'mapping', $load->entity->name);
        $load = $page->definitions->loads()->firstWhere('id', $load->id) ?? $load;
        $columns = $load->extract->tidyColumns();
        $cells = (new StagedRows((int) $load->extract->take_id, $load->extract_id, $columns->byHeader()))->numbered([$row])[
                $row
            ] ?? abort(404);
        $data = RecordSent::of($page, $load, $row, $cells) + [
            'page' => $page,
            'load' => $load,
            'row' => $row,
            'rows' => (int) $load->extract->take?->rows,
            'columns' => $columns->all,
            'cells' => $cells,
            'corrected' => Correction::query()->where('extract_id', $load->extract_id)->where('row_no', $row)->exists(),
        ];

        return view($request->hasHeader('HX-Request') ? 'mapping.record' : 'mapping.record-page', $data);
    }

    public function rule(Request $request, Migration $migration, Load $load, string $field, RuleBook $book): Response
    {
        $this->authorize('work', $migration);
        $this->ours($migration, $load);
        $described = $load->entity->described()->writable()[$field] ?? abort(404);
        $request->validate([
            'expression' => 'nullable|string|max:4000',
            'empty_reason' => 'nullable|string|max:1000',
            'note' => 'nullable|string|max:1000',
            'version' => 'required|integer',
        ]);
        $told = $conflict = null;
        $status = 200;
        $expression = (string) $request->input('expression');
        try {
            $before = $load->rules()->where('field', $field)->first();
            $ready = $book->write(
                $load,
                $field,
                $request->integer('version'),
                $expression,
                $this->filled($request->input('empty_reason')),
                $request->has('note') ? $this->filled($request->input('note')) : $before?->note,
                $request->user(),
            );
            $told = 'Kept.'.($ready > 0 ? ' '.Say::count($ready, 'rejected row').' can be loaded again.' : '');
        } catch (RuleConflict $e) {
            $conflict = $e;
            $status = 409;
        } catch (ExpressionError) {
            // The line shows what is wrong, and nothing was kept.
            $status = 422;
        }
        $page = new Page($migration, 'mapping', $load->entity->name);
        $load = $page->definitions->loads()->firstWhere('id', $load->id) ?? $load;
        $sheet = new RuleSheet($page->definitions, $load, RuleSheet::rows($load, $request->input('rows')));
        $rule = $load->rules->firstWhere('field', $field);
        $line = $sheet->line($described, $rule, $status === 200 ? (string) $rule?->expression : $expression);

        return response(
            view('mapping.line', [
                'line' => $line,
                'sheet' => $sheet,
                'page' => $page,
                'told' => $told,
                'conflict' => $conflict,
            ]),
            $status,
        );
    }

    /** A column from the shelf straight into a field that has no rule yet. */
    public function map(Request $request, Migration $migration, Load $load, RuleBook $book): RedirectResponse
    {
        $this->authorize('work', $migration);
        $this->ours($migration, $load);
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
        $this->ours($migration, $load);
        $data = $request->validate(['fields' => 'required|array', 'fields.*' => 'string']);
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

        return redirect("/m/$migration->id/mapping/{$load->entity->name}?load=$load->id")->with(
            $taken === [] ? 'refused' : 'told',
            $taken === []
                ? 'These suggestions do not stand any more: somebody has written rules.'
                : 'Mapped as suggested: '.implode(', ', array_slice($taken, 0, 8))
                    .(count($taken) > 8 ? ' and '.(count($taken) - 8).' more' : '').'. Check them.',
        );
    }

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

    public function settings(Request $request, Migration $migration, Load $load, Repairs $repairs): RedirectResponse
    {
        $this->authorize('work', $migration);
        $this->ours($migration, $load);
        $data = $request->validate([
            'version' => 'required|integer',
            'key' => 'required|array|min:1',
            'key.*' => 'string',
            'key_normalisation' => 'required|in:'.implode(',', array_column(KeyNormalisation::cases(), 'value')),
            'scope' => 'nullable|string|max:4000',
            'scope_reason' => 'nullable|string|max:500',
            'policy' => 'required|in:'.implode(',', array_column(WritePolicy::cases(), 'value')),
            'match_field' => 'nullable|array',
            'match_field.*' => 'nullable|string',
            'match_how' => 'nullable|array',
            'match_how.*' => 'nullable|in:'.implode(',', array_column(Normaliser::cases(), 'value')),
        ]);
        $match = [];
        foreach ($data['match_field'] ?? [] as $i => $field) {
            if ((string) $field !== '' && isset($load->entity->described()->writable()[$field])) {
                $match[$field] = $data['match_how'][$i] ?? 'exact';
            }
        }
        $scope = $this->filled($data['scope'] ?? null);
        $columns = $load->extract->tidyColumns();
        try {
            if ($scope !== null) {
                (new Compiler($columns))->compile($scope);
            }
        } catch (ExpressionError $e) {
            return back()
                ->with('refused', 'The scope was not kept: '.$e->getMessage())
                ->withInput();
        }
        if ($scope !== null && $this->filled($data['scope_reason'] ?? null) === null) {
            return back()
                ->with('refused', 'Say why the other rows are left out; the reason stands on the count proof.')
                ->withInput();
        }
        $changed = $load
            ->newQuery()
            ->whereKey($load->id)
            ->where('version', $data['version'])
            ->update([
                'key_columns' => json_encode(
                    array_values(array_filter($data['key'], fn ($k) => $columns->find($k) !== null)),
                ),
                'key_normalisation' => $data['key_normalisation'],
                'scope' => $scope,
                'scope_reason' => $scope === null ? null : $data['scope_reason'],
                'policy' => $data['policy'],
                'match_on' => json_encode((object) $match),
                'version' => $data['version'] + 1,
            ]);
        if ($changed === 0) {
            return back()->with(
                'refused',
                'Somebody changed these settings while you had them open. They are shown as they are now; nothing of yours was kept.',
            );
        }
        Audit::note($migration->id, "changed feed, key and scope of $load->name", $data);
        $ready = $repairs->ruleChanged($load->refresh(), null);

        return back()->with(
            'told',
            'Kept.'.($ready > 0 ? ' '.Say::count($ready, 'row').' can be loaded again.' : ''),
        );
    }

    public function decide(Request $request, Migration $migration, Extract $extract): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate(['header' => 'required|string', 'reason' => 'nullable|string|max:500']);
        $reason = $this->filled($data['reason'] ?? null);
        if ($request->boolean('undo')) {
            ColumnDecision::query()->where('extract_id', $extract->id)->where('header', $data['header'])->delete();
            Audit::note($migration->id, "took the column $data[header] of $extract->name up again");

            return back();
        }
        if ($reason === null) {
            return back()->with('refused', "Say why \"$data[header]\" is left behind.");
        }
        ColumnDecision::query()->updateOrCreate(
            ['extract_id' => $extract->id, 'header' => $data['header']],
            ['reason' => $reason, 'user_id' => $request->user()?->id],
        );
        Audit::note($migration->id, "left the column $data[header] of $extract->name behind", ['reason' => $reason]);

        return back();
    }

    /** Whether an extract is read by a load at all is decided too. */
    public function notLoaded(Request $request, Migration $migration, Extract $extract): RedirectResponse
    {
        $this->authorize('work', $migration);
        $data = $request->validate(['reason' => 'nullable|string|max:500']);
        $extract->update(['not_loaded' => $this->filled($data['reason'] ?? null)]);
        Audit::note(
            $migration->id,
            $extract->not_loaded === null
                ? "took the extract $extract->name up again"
                : "left the extract $extract->name behind",
            ['reason' => $extract->not_loaded],
        );

        return back();
    }

    public function destroy(Migration $migration, Load $load): RedirectResponse
    {
        $this->authorize('work', $migration);
        $this->ours($migration, $load);
        if (OutcomeRow::query()->where('load_id', $load->id)->exists()) {
            return back()->with('refused', 'Rounds have outcomes of this load, so it stays.');
        }
        $load->delete();
        Audit::note($migration->id, "deleted load $load->name");

        return redirect("/m/$migration->id/mapping");
    }

    private function ours(Migration $migration, Load $load): void
    {
    }

    private function filled(mixed $text): ?string
    {
        return is_string($text) && trim($text) !== '' ? trim($text) : null;
    }
}
