<?php

namespace App\Http\Controllers;

use App\Mapping\RuleBook;
use App\Mapping\RuleConflict;
use App\Models\Load;
use App\Models\Migration;
use App\Models\RuleVersion;
use App\View\Page;
use App\View\Say;
use App\View\Tables\MappingTables;
use Baggage\Core\Expressions\ExpressionError;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** What the rules of a load said before, who changed them, and the way back. */
final class HistoryController extends Controller
{
    private const SHOWN = 2_000;

    public function index(Request $request, Migration $migration, Load $load): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $field = $request->query('field');
        $versions = RuleVersion::query()
            ->where('load_id', $load->id)
            ->when(is_string($field), fn ($q) => $q->where('field', $field))
            ->with('user')
            ->orderByDesc('id')
            ->limit(self::SHOWN)
            ->get();

        return $this->screen('mapping.history', [
            'page' => Page::ofLoad($migration, 'mapping', $load),
            'load' => $load,
            'table' => MappingTables::rules($request, $versions),
            'newest' => $versions->unique('field')->pluck('id')->all(),
            'field' => is_string($field) ? $field : null,
            'rules' => $load->rules()->get()->keyBy('field'),
        ]);
    }

    /** Makes a rule say again what it said. */
    public function restore(
        Request $request,
        Migration $migration,
        Load $load,
        RuleVersion $version,
        RuleBook $book,
    ): RedirectResponse {
        $this->authorize('work', $migration);

        return $this->put($request, $migration, $load, $version->field, $version, $book);
    }

    /** Takes the latest change of the load back; once more does it again. */
    public function undo(Request $request, Migration $migration, Load $load, RuleBook $book): RedirectResponse
    {
        $this->authorize('work', $migration);
        $last = RuleVersion::query()->where('load_id', $load->id)->latest('id')->first();
        if ($last === null || $last->id !== $request->integer('version')) {
            return back()->with(
                'refused',
                'Somebody has changed a rule of this load since you looked. See the history for what to take back.',
            );
        }
        $before = RuleVersion::query()
            ->where('load_id', $load->id)
            ->where('field', $last->field)
            ->where('id', '<', $last->id)
            ->latest('id')
            ->first();

        return $this->put($request, $migration, $load, $last->field, $before, $book);
    }

    private function put(
        Request $request,
        Migration $migration,
        Load $load,
        string $field,
        ?RuleVersion $as,
        RuleBook $book,
    ): RedirectResponse {
        $rule = $load->rules()->where('field', $field)->first();
        try {
            $book->write(
                $load,
                $field,
                $rule->version ?? 0,
                $as?->expression,
                $as?->empty_reason,
                $as?->note,
                $request->user(),
            );
        } catch (RuleConflict|ExpressionError $e) {
            return back()->with('refused', "$field was not changed: {$e->getMessage()}");
        }

        return redirect("/m/$migration->id/mapping/{$load->entity->name}?load=$load->id#rule-$field")->with(
            'told',
            "$field: ".($as?->says() ?? 'no rule').', as before.',
        );
    }

    /** Asked for every few seconds by an open sheet: what others changed since it was shown. */
    public function news(Request $request, Migration $migration, Load $load): View
    {
        $this->authorize('view', $migration);
        $since = $request->integer('since');
        $changes = RuleVersion::query()
            ->where('load_id', $load->id)
            ->where('id', '>', $since)
            ->where(fn ($q) => $q->whereNull('user_id')->orWhere('user_id', '<>', $request->user()?->id))
            ->with('user')
            ->orderBy('id')
            ->get()
            ->keyBy('field');

        return view('mapping.news', [
            'migration' => $migration,
            'load' => $load,
            'since' => $since,
            'changes' => $changes,
        ]);
    }
}
